import type { CompareRow } from '@stem-trace/contract';
import { Bar, BarChart, LabelList, XAxis, YAxis } from 'recharts';
import styled from 'styled-components';
import { Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';

/** How the number of lines and of direct pieces changed: the small picture beside the table. */
export function EffectChart({ rows }: { readonly rows: readonly CompareRow[] }): React.JSX.Element {
  const before = rows.flatMap((row) => row.before ?? []);
  const after = rows.flatMap((row) => row.after ?? []);
  const data = [
    { name: 'Lines', from: before.length, to: after.length },
    { name: 'Pieces', from: sum(before), to: sum(after) },
  ];
  return (
    <Panel aria-label="Effect">
      <h2>Effect</h2>
      {data.map((entry) => (
        <figure key={entry.name}>
          <figcaption>
            {entry.name}{' '}
            <Soft>
              {entry.from} → {entry.to}
            </Soft>
          </figcaption>
          <BarChart
            width={148}
            height={62}
            layout="vertical"
            data={[
              { side: 'from', value: entry.from },
              { side: 'to', value: entry.to },
            ]}
            margin={{ left: 0, right: 26, top: 0, bottom: 0 }}
          >
            <XAxis type="number" hide domain={[0, 'dataMax']} />
            <YAxis
              type="category"
              dataKey="side"
              width={34}
              axisLine={false}
              tickLine={false}
              tick={{ fill: colour.inkSoft, fontSize: 11 }}
            />
            <Bar dataKey="value" fill={colour.petrol} isAnimationActive={false} barSize={14}>
              <LabelList dataKey="value" position="right" fill={colour.ink} fontSize={11} />
            </Bar>
          </BarChart>
        </figure>
      ))}
      <Soft>Lines of the tree, and quantities per parent added up.</Soft>
    </Panel>
  );
}

function sum(sides: readonly { readonly quantity: number }[]): number {
  return sides.reduce((total, { quantity }) => total + quantity, 0);
}

const Panel = styled.section`
  flex: 0 0 172px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  font-size: 12px;
  overflow: auto;
  figure {
    margin: 0;
  }
`;
