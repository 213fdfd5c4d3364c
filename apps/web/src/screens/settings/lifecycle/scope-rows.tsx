/** For what a lifecycle is meant. */
import { SCOPE_KINDS, type LifecycleScope } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Plus, Trash2 } from 'lucide-react';
import styled from 'styled-components';
import { placesQuery } from '../../../api/queries.js';
import { propertiesQuery } from '../../../api/properties.js';
import { QuietButton, Select } from '../../../ui/controls.js';

export interface ScopeRowsProps {
  readonly scopes: readonly LifecycleScope[];
  readonly onChange: (scopes: readonly LifecycleScope[]) => void;
}

export function ScopeRows({ scopes, onChange }: ScopeRowsProps): React.JSX.Element {
  const classes = useQuery(propertiesQuery).data?.classes ?? [];
  const places = useQuery(placesQuery).data ?? [];
  const set = (at: number, more: Partial<LifecycleScope>): void =>
    onChange(scopes.map((scope, other) => (other === at ? { ...scope, ...more } : scope)));
  return (
    <>
      {scopes.map((scope, at) => (
        // By its place: what it says is being chosen.
        <Line key={at} role="group" aria-label={`Meant for: ${sayScope(scope)}`}>
          <Pick
            label="Kind"
            none="every kind"
            value={scope.kind}
            options={SCOPE_KINDS}
            onChange={(kind) => set(at, { kind: SCOPE_KINDS.find((each) => each === kind) ?? null })}
          />
          <Pick
            label="Class"
            none="of any class"
            value={scope.class}
            options={classes.map(({ name }) => name)}
            onChange={(next) => set(at, { class: next })}
          />
          <Pick
            label="Place"
            none="wherever it lies"
            value={scope.place}
            options={places.map(({ path }) => path).filter((path) => path !== '/')}
            onChange={(place) => set(at, { place })}
          />
          <QuietButton
            aria-label={`Not for: ${sayScope(scope)}`}
            onPress={() => onChange(scopes.filter((_, other) => other !== at))}
          >
            <Trash2 size={14} aria-hidden />
          </QuietButton>
        </Line>
      ))}
      <QuietButton onPress={() => onChange([...scopes, { kind: null, class: null, place: null }])}>
        <Plus size={14} aria-hidden /> Also for …
      </QuietButton>
    </>
  );
}

/** `every drawing below /Projects`, `everything else` */
export function sayScope({ kind, class: itemClass, place }: LifecycleScope): string {
  const what = [itemClass, kind].flatMap((each) => each ?? []).join(' ');
  if (what === '' && place === null) return 'everything else';
  return `${what === '' ? 'everything' : `every ${what}`}${place === null ? '' : ` below ${place}`}`;
}

interface PickProps {
  readonly label: string;
  readonly none: string;
  readonly value: string | null;
  readonly options: readonly string[];
  readonly onChange: (value: string | null) => void;
}

function Pick({ label, none, value, options, onChange }: PickProps): React.JSX.Element {
  return (
    <Select
      aria-label={label}
      style={{ width: 'auto', maxWidth: 260 }}
      value={value ?? ''}
      onChange={({ target }) => onChange(target.value === '' ? null : target.value)}
    >
      <option value="">{none}</option>
      {options.map((option) => (
        <option key={option}>{option}</option>
      ))}
    </Select>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 2px 0;
`;
