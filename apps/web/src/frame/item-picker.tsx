import { parseReference, type State } from '@stem-trace/contract';
import type { ItemKind } from '@stem-trace/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { findPageQuery } from '../api/find.js';
import { CompletingField } from '../ui/completing-field.js';
import { Mono, Soft } from '../ui/controls.js';
import { StateGlyph } from '../ui/glyphs.js';
import { KindGlyph } from '../ui/kind-glyph.js';
import { useDesk } from './desk.js';

const OFFERED = 8;

export interface ItemPickerProps {
  readonly label: string;
  /** `NUMBER` or `NUMBER@B/3`; empty for none. */
  readonly value: string;
  /** An item of the list, or what was typed when Enter was pressed. */
  readonly onChoose: (reference: string) => void;
  /** What stands in the field while it is typed; for forms, which read it when they are sent. */
  readonly onType?: (text: string) => void;
  readonly placeholder?: string;
  readonly width?: string;
  readonly takesFocus?: boolean;
}

interface Offered {
  readonly id: string;
  readonly text: string;
  readonly name: string;
  readonly kind?: ItemKind;
  readonly state?: State;
}

/**
 * Where an item is asked for: completes numbers and names, and before anything is typed offers what lies in the tray and
 * what was looked at last.
 */
export function ItemPicker({
  label,
  value,
  onChoose,
  onType,
  placeholder = 'Number or name …',
  width = '300px',
  takesFocus = false,
}: ItemPickerProps): React.JSX.Element {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  const offered = useOffered(typed, value);
  const type = (text: string): void => {
    setTyped(text);
    onType?.(text.trim());
  };
  const choose = (reference: string): void => {
    type(reference);
    if (reference !== '') onChoose(reference);
  };
  return (
    <CompletingField
      {...{ label, placeholder, width, takesFocus }}
      mono
      value={typed}
      onChange={type}
      completions={offered}
      onChoose={({ text }) => choose(text)}
      onEnter={() => choose(typed.trim())}
      render={(item) => <OfferedItem item={item} />}
    />
  );
}

function useOffered(typed: string, value: string): readonly Offered[] {
  const { tray, looked } = useDesk();
  const words = typed === value ? '' : parseReference(typed).number;
  const found = useQuery({
    ...findPageQuery({ words: plainWords(words), sort: 'best', order: 'up' }, 0, OFFERED),
    enabled: words !== '',
    placeholderData: keepPreviousData,
  });
  if (words !== '')
    return (found.data?.rows ?? []).map(({ number, name, kind, state }) => ({
      ...{ id: number, text: number, name },
      kind,
      state,
    }));
  const near = [...tray, ...looked].map(({ number, name }) => ({ id: number, text: number, name }));
  return [...new Map(near.map((item) => [item.id, item])).values()].slice(0, OFFERED);
}

/** Here words are only words, whatever their signs mean in a search. */
function plainWords(words: string): string {
  return /[=<>≠≤≥"()]/.test(words) ? `"${words.replaceAll('"', '')}"` : words;
}

function OfferedItem({ item }: { readonly item: Offered }): React.JSX.Element {
  return (
    <>
      {item.kind ? <KindGlyph kind={item.kind} /> : null}
      {item.state ? <StateGlyph state={item.state} /> : null}
      <Mono>{item.text}</Mono>
      <Name>{item.name}</Name>
    </>
  );
}

const Name = styled(Soft)`
  overflow: hidden;
  text-overflow: ellipsis;
`;
