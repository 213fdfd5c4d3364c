import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { placesQuery } from '../api/queries.js';
import { CompletingField } from '../ui/completing-field.js';
import { Soft } from '../ui/controls.js';

const OFFERED = 12;

export interface PlacePickerProps {
  readonly label: string;
  /** Path of a place, which need not exist where somebody has said that it is new; empty for none. */
  readonly value: string;
  readonly onChange: (path: string) => void;
  readonly placeholder?: string;
  readonly width?: string;
  /** Whether a place that is not there yet can be chosen. */
  readonly allowsNew?: boolean;
}

interface Offered {
  readonly id: string;
  readonly text: string;
  readonly isNew: boolean;
}

/** Where a place is asked for. One that does not exist is chosen only by saying that it is new. */
export function PlacePicker({
  label,
  value,
  onChange,
  placeholder = '/ …',
  width = '260px',
  allowsNew = true,
}: PlacePickerProps): React.JSX.Element {
  const places = useQuery(placesQuery).data;
  const [typed, setTyped] = useState(value);
  // All places are offered to whoever has typed nothing; the list stays as it is when what was typed becomes a place.
  const [isSearching, search] = useState(false);
  useEffect(() => setTyped(value), [value]);
  const known = (places ?? []).map(({ path }) => path);
  const path = placeOfText(typed);
  const offered = offeredOf(known, isSearching ? typed.trim() : '', allowsNew);
  const exists = known.includes(path);
  const choose = (chosen: string): void => {
    setTyped(chosen);
    search(false);
    onChange(chosen);
  };
  return (
    <div>
      <CompletingField<Offered>
        {...{ label, placeholder, width }}
        value={typed}
        onChange={(text) => {
          setTyped(text);
          search(true);
          // What is no place, and not said to be new, is not chosen.
          if (text.trim() === '') onChange('');
          else if (known.includes(placeOfText(text))) onChange(placeOfText(text));
        }}
        completions={offered}
        onChoose={({ text }) => choose(text)}
        onEnter={() => (exists ? choose(path) : undefined)}
        render={(place) => (place.isNew ? <>New place {place.text}</> : place.text)}
      />
      {typed.trim() !== '' && !exists && places !== undefined ? (
        <Soft role="status">
          {path === value
            ? 'A new place.'
            : 'No such place. Choose one, or the new one at the end of the list.'}
        </Soft>
      ) : null}
    </div>
  );
}

/** Places that hold all words, the nearest to the root first; what was typed as a new one, at the end. */
function offeredOf(known: readonly string[], typed: string, allowsNew: boolean): readonly Offered[] {
  const words = typed.toLowerCase().split(/\s+/);
  const fitting = known
    .filter((path) => words.every((word) => path.toLowerCase().includes(word)))
    .slice(0, OFFERED)
    .map((path) => ({ id: path, text: path, isNew: false }));
  const path = placeOfText(typed);
  if (!allowsNew || typed === '' || known.includes(path)) return fitting;
  return [...fitting, { id: `new ${path}`, text: path, isNew: true }];
}

/** `a/b/` as `/a/b`. */
function placeOfText(text: string): string {
  const parts = text.split('/').flatMap((part) => part.trim() || []);
  return `/${parts.join('/')}`;
}
