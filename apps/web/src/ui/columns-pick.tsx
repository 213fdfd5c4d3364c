import { Columns3 } from 'lucide-react';
import { useMemo } from 'react';
import { Dialog, DialogTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { Button, Drop } from './controls.js';
import { useKept } from './kept.js';
import { Tick } from './tick.js';

/**
 * What is shown of a table, as this browser keeps it.
 *
 * @param first what is shown until somebody chooses
 */
export function useShownColumns(
  name: string,
  first: readonly string[],
): [ReadonlySet<string>, (columns: ReadonlySet<string>) => void] {
  const [kept, keep] = useKept(`columns.${name}`, isKeys, first);
  return [useMemo(() => new Set(kept), [kept]), (columns) => keep([...columns])];
}

function isKeys(value: unknown): value is readonly string[] {
  return Array.isArray(value) && value.every((key) => typeof key === 'string');
}

export interface ColumnsPickProps {
  readonly of: readonly { readonly key: string; readonly title: string }[];
  readonly shown: ReadonlySet<string>;
  readonly onShow: (columns: ReadonlySet<string>) => void;
}

/** A button that opens the list of what can be shown, each to be ticked. */
export function ColumnsPick({ of, shown, onShow }: ColumnsPickProps): React.JSX.Element {
  return (
    <DialogTrigger>
      <Button aria-label="Columns">
        <Columns3 size={15} aria-hidden />
      </Button>
      <Ticks placement="bottom end">
        <Dialog aria-label="Columns">
          {of.map(({ key, title }) => (
            <Tick
              key={key}
              isSelected={shown.has(key)}
              onChange={(on) => {
                const next = new Set(shown);
                if (on) next.add(key);
                else next.delete(key);
                onShow(next);
              }}
            >
              {title}
            </Tick>
          ))}
        </Dialog>
      </Ticks>
    </DialogTrigger>
  );
}

const Ticks = styled(Drop)`
  padding: 12px;
  section {
    display: grid;
    gap: 6px;
    outline: none;
  }
`;
