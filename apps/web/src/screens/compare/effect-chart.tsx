import type { BomSum, Contribution, Effect } from '@stem-trace/core';
import { useState } from 'react';
import { Bar, BarChart, Cell, ReferenceLine, XAxis, YAxis } from 'recharts';
import styled from 'styled-components';
import { Choice, Mono, Soft } from '../../ui/controls.js';
import { StateGlyph } from '../../ui/glyphs.js';
import { sayMass, useShowing } from '../../ui/showing.js';
import { colour } from '../../ui/theme.js';

/** Contributions with a bar of their own; the others are one. */
const MOST_BARS = 7;
const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 4 });

/** What the differences add up to: figures of both sides, and what contributes the most. */
export function EffectChart({ effect }: { readonly effect: Effect }): React.JSX.Element {
  const [of, turn] = useState<'mass' | 'cost'>('mass');
  const hasCost = effect.from.cost > 0 || effect.to.cost > 0;
  const steps = stepsOf(effect, of);
  return (
    <Panel aria-label="Effect" tabIndex={0} role="region">
      <h2>Effect</h2>
      <Figures effect={effect} hasCost={hasCost} />
      {hasCost ? (
        <Choice
          label="What the bars show"
          options={[
            { key: 'mass', text: 'Mass' },
            { key: 'cost', text: 'Cost' },
          ]}
          value={of}
          onChange={turn}
        />
      ) : null}
      {steps.length > 2 ? <Waterfall steps={steps} of={of} /> : <Soft>Nothing changes the {of}.</Soft>}
    </Panel>
  );
}

interface FigureRow {
  readonly says: string;
  readonly of: (sum: BomSum) => number;
  readonly show: (value: number) => string;
  readonly unknown?: (sum: BomSum) => number;
}

function Figures({
  effect: { from, to },
  hasCost,
}: {
  readonly effect: Effect;
  readonly hasCost: boolean;
}): React.JSX.Element {
  const { mass } = useShowing();
  const rows: readonly FigureRow[] = [
    {
      says: 'Mass',
      of: (sum) => sum.massKg,
      show: (kg) => sayMass(kg, mass),
      unknown: (sum) => sum.massUnknown,
    },
    ...(hasCost
      ? [
          {
            says: 'Cost',
            of: (sum: BomSum) => sum.cost,
            show: DIGITS.format,
            unknown: (sum: BomSum) => sum.costUnknown,
          },
        ]
      : []),
    { says: 'Pieces', of: (sum) => sum.pieces, show: DIGITS.format },
    { says: 'Different parts', of: (sum) => sum.parts, show: DIGITS.format },
    { says: 'Different bought parts', of: (sum) => sum.bought, show: DIGITS.format },
    { says: 'Lines', of: (sum) => sum.lines, show: DIGITS.format },
  ];
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">
            <Unseen>What</Unseen>
          </th>
          <th scope="col">From</th>
          <th scope="col">To</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ says, of, show, unknown }) => (
          <tr key={says}>
            <th scope="row">{says}</th>
            <td>{shown(from, of, show, unknown)}</td>
            <td data-differs={of(from) !== of(to) || undefined}>{shown(to, of, show, unknown)}</td>
          </tr>
        ))}
        <tr>
          <th scope="row">Worst state</th>
          <td>{from.worst === null ? '' : <StateGlyph state={from.worst} />}</td>
          <td>{to.worst === null ? '' : <StateGlyph state={to.worst} />}</td>
        </tr>
      </tbody>
    </table>
  );
}

/** A sum that lacks something says so. */
function shown(
  sum: BomSum,
  of: FigureRow['of'],
  show: FigureRow['show'],
  unknown: FigureRow['unknown'],
): React.JSX.Element {
  const lacks = unknown?.(sum) ?? 0;
  return (
    <Mono title={lacks > 0 ? `${lacks} lines say nothing` : undefined}>
      {lacks > 0 ? '≥ ' : ''}
      {show(of(sum))}
    </Mono>
  );
}

interface Step {
  readonly name: string;
  readonly says: string;
  /** From where to where the bar goes. */
  readonly span: readonly [number, number];
  readonly kind: 'whole' | 'more' | 'less';
}

/** From the one sum to the other, what changes it the most first. */
function stepsOf(effect: Effect, of: 'mass' | 'cost'): Step[] {
  const [start, end] =
    of === 'mass' ? [effect.from.massKg, effect.to.massKg] : [effect.from.cost, effect.to.cost];
  const all = effect[of];
  const rest = all.slice(MOST_BARS);
  const listed: Contribution[] = [
    ...all.slice(0, MOST_BARS),
    ...(rest.length > 0
      ? [
          {
            number: `${rest.length} others`,
            name: '',
            before: rest.reduce((sum, { before }) => sum + before, 0),
            after: rest.reduce((sum, { after }) => sum + after, 0),
          },
        ]
      : []),
  ];
  let at = start;
  return [
    { name: 'From', says: DIGITS.format(start), span: [0, start], kind: 'whole' },
    ...listed.map(({ number, before, after }): Step => {
      const change = after - before;
      const span: [number, number] = [at, at + change];
      at += change;
      const says = `${change > 0 ? '+' : '−'}${DIGITS.format(Math.abs(change))}`;
      return { name: number, says, span, kind: change > 0 ? 'more' : 'less' };
    }),
    { name: 'To', says: DIGITS.format(end), span: [0, end], kind: 'whole' },
  ];
}

const INK = { whole: colour.petrol, more: colour.added, less: colour.copper } as const;
const BAR_PX = 21;

/** The bars, with the same as a table for those who do not see them. */
function Waterfall({
  steps,
  of,
}: {
  readonly steps: readonly Step[];
  readonly of: 'mass' | 'cost';
}): React.JSX.Element {
  const unit = of === 'mass' ? ', kg' : '';
  return (
    <figure>
      <figcaption>{`Contributions to ${of}${unit}`}</figcaption>
      <div aria-hidden>
        <BarChart
          width={188}
          height={steps.length * BAR_PX + 6}
          layout="vertical"
          accessibilityLayer={false}
          data={[...steps]}
          margin={{ left: 0, right: 4, top: 2, bottom: 0 }}
        >
          <XAxis type="number" hide domain={['dataMin', 'dataMax']} />
          <YAxis
            type="category"
            dataKey="name"
            width={60}
            axisLine={false}
            tickLine={false}
            tick={{ fill: colour.inkSoft, fontSize: 10.5 }}
          />
          <ReferenceLine x={0} stroke={colour.line} />
          <Bar dataKey="span" isAnimationActive={false} barSize={12}>
            {steps.map(({ name, kind }) => (
              <Cell key={name} fill={INK[kind]} />
            ))}
          </Bar>
        </BarChart>
      </div>
      <Steps aria-label={`Contributions to ${of}`}>
        {steps.map(({ name, says }) => (
          <li key={name}>
            <Mono>{name}</Mono> <Mono>{says}</Mono>
          </li>
        ))}
      </Steps>
    </figure>
  );
}

const Panel = styled.section`
  flex: 0 0 214px;
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
  table {
    border-collapse: collapse;
  }
  th,
  td {
    padding: 2px 0 2px 8px;
    text-align: right;
    font-weight: 400;
  }
  th {
    color: ${colour.inkSoft};
  }
  th[scope='row'] {
    text-align: left;
    padding-left: 0;
  }
  td[data-differs] {
    color: ${colour.changed};
    font-weight: 500;
  }
`;
const Steps = styled.ul`
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 1px;
  font-size: 11px;
  color: ${colour.inkSoft};
  li {
    display: flex;
    justify-content: space-between;
  }
`;
const Unseen = styled.span`
  position: absolute;
  clip-path: inset(50%);
`;
