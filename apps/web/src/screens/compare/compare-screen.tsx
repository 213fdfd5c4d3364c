import { useQuery } from '@tanstack/react-query';
import type { ComparedSide } from '@stem-trace/contract';
import { ArrowLeftRight } from 'lucide-react';
import styled from 'styled-components';
import { propertiesQuery } from '../../api/properties.js';
import { compareQuery } from '../../api/queries.js';
import { BeginWith } from '../../frame/begin-with.js';
import { Button, Hint, Soft, Trouble } from '../../ui/controls.js';
import { ColumnsPick } from '../../ui/columns-pick.js';
import { When } from '../../ui/when.js';
import { Differences } from './differences.js';
import { SidePicker } from './side-picker.js';
import { useComparison, type Comparison } from './use-comparison.js';

/** Two BOMs side by side, with the direction said in words. */
export function CompareScreen(): React.JSX.Element {
  const comparison = useComparison();
  const { query, change } = comparison;
  const answer = useQuery(compareQuery(query));
  const isWhole = query.from !== '' && query.to !== '';
  return (
    <>
      <Sides>
        <SidePicker
          label="From"
          value={query.from}
          lens={query.fromLens}
          onChange={(value) => change({ from: value })}
          onLens={(lens) => change({ fromLens: lens })}
        >
          <Said side={isWhole ? answer.data?.from : undefined} />
        </SidePicker>
        <Button onPress={comparison.swap}>
          <ArrowLeftRight size={15} aria-hidden /> Swap sides
        </Button>
        <SidePicker
          label="To"
          value={query.to}
          lens={query.toLens}
          onChange={(value) => change({ to: value })}
          onLens={(lens) => change({ toLens: lens })}
        >
          <Said side={isWhole ? answer.data?.to : undefined} />
        </SidePicker>
        <Columns comparison={comparison} />
      </Sides>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {isWhole ? null : (
        <>
          <Hint>
            Choose two versions: of one item, or of two. Or put two items into the tray (Space) and compare
            them from there.
          </Hint>
          <BeginWith onChoose={(item) => change(query.from === '' ? { from: item } : { to: item })} />
        </>
      )}
      {isWhole && answer.data ? <Differences answer={answer.data} comparison={comparison} /> : null}
    </>
  );
}

/** When a side came in, and who brought it. */
function Said({ side }: { readonly side: ComparedSide | undefined }): React.JSX.Element | null {
  if (!side) return null;
  return (
    <Soft>
      {side.version} · <When at={side.at} /> · {side.author}
    </Soft>
  );
}

/** Properties that are compared too. */
function Columns({ comparison }: { readonly comparison: Comparison }): React.JSX.Element {
  const known = useQuery(propertiesQuery).data?.definitions ?? [];
  return (
    <ColumnsPick
      of={known.map(({ name }) => ({ key: name, title: name }))}
      shown={new Set(comparison.columns)}
      onShow={(columns) => comparison.change({ columns: [...columns].join(';') })}
    />
  );
}

const Sides = styled.div`
  display: flex;
  align-items: end;
  gap: 12px;
  flex-wrap: wrap;
`;
