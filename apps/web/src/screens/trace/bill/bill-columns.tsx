/** What a BOM can show of a row. */
import type { AmountView, BillRow } from '@stem-trace/contract';
import { grossAmount, sayAmount } from '@stem-trace/core';
import styled from 'styled-components';
import { Mono, Soft } from '../../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../../ui/glyphs.js';
import type { GridColumn } from '../../../ui/grid.js';
import { HolderTag } from '../../../ui/holder-tag.js';
import { MiddleCut } from '../../../ui/middle-cut.js';
import { AtTimes } from '../../../ui/only-in.js';
import { Thumb } from '../../../pictures/thumb.js';

const PROPERTY = 'property:';

/** Told of a row in a spreadsheet too. */
export interface BillColumn extends GridColumn<BillRow> {
  readonly text: (row: BillRow) => string;
}

const plain = (
  key: string,
  title: string,
  width: string,
  text: (row: BillRow) => string,
  more: Partial<BillColumn> = {},
): BillColumn => ({
  ...{ key, title, width, text },
  sortBy: (row) => text(row) || null,
  cell: (row) => <span title={text(row)}>{text(row)}</span>,
  ...more,
});

function sayTotal(amounts: readonly AmountView[]): string {
  return amounts.map(({ said }) => said).join(' and ');
}

/** With what is lost, up to whole bars, reels or packs. */
function sayGross(amounts: readonly AmountView[]): string {
  return amounts.map(({ said: _, ...amount }) => sayAmount(grossAmount(amount))).join(' and ');
}

const BUILT_IN: readonly BillColumn[] = [
  plain('find', 'Find no.', '60px', ({ find }) => find, {
    sortBy: ({ find }) => (find === '' ? null : Number.isNaN(Number(find)) ? find : Number(find)),
    cell: ({ find }) => <Mono>{find}</Mono>,
  }),
  plain('amount', 'Quantity', '96px', ({ amount }) => amount.said, {
    align: 'right',
    sortBy: ({ amount }) => Number(amount.value),
    cell: ({ amount }) => <Mono>{amount.said}</Mono>,
  }),
  plain('total', 'Total', '96px', ({ total }) => sayTotal(total), {
    align: 'right',
    sortBy: ({ total }) => Number(total[0]?.value ?? 0),
    cell: ({ total }) => <Mono>{sayTotal(total)}</Mono>,
  }),
  plain('gross', 'With scrap', '96px', ({ total }) => sayGross(total), {
    align: 'right',
    cell: ({ total }) => <Mono>{sayGross(total)}</Mono>,
  }),
  plain('designators', 'Designators', 'minmax(110px, 0.8fr)', ({ designators }) => designators, {
    cell: ({ designators }) => <Mono title={designators}>{designators}</Mono>,
  }),
  plain('version', 'Version', '72px', ({ version }) => version, {
    cell: ({ version, isGap }) => (isGap ? <AttentionMark>gap</AttentionMark> : <Mono>{version}</Mono>),
  }),
  plain('kind', 'Kind', '84px', ({ kind }) => kind ?? ''),
  plain('source', 'Made or bought', '104px', ({ source }) => source),
  plain('configurations', 'Configurations', '110px', ({ configurations }) => configurations),
  plain('planned', 'Counts, as planned', '148px', ({ planned }) => planned),
  plain('actual', 'Counts, actually', '148px', ({ actual }) => actual),
  plain('from', 'Used in', 'minmax(140px, 1fr)', ({ from }) => from.map(({ number, said }) => `${number} ×${said}`).join(', ')), // prettier-ignore
  plain('alternates', 'Alternates', 'minmax(110px, 0.7fr)', ({ alternates }) =>
    alternates.map(({ number, onlyIn }) => (onlyIn === null ? number : `${number} (only here)`)).join(', '),
  ),
  plain('held', 'Held', '56px', ({ heldBy }) => heldBy?.name ?? '', {
    align: 'center',
    cell: ({ heldBy }) => <HolderTag holder={heldBy} />,
  }),
];

export const FIRST_COLUMNS: readonly string[] = [
  'find',
  'amount',
  'total',
  'designators',
  'version',
  'source',
];

/** All that can be chosen, by key. */
export function choosable(properties: readonly string[]): readonly { key: string; title: string }[] {
  return [
    ...BUILT_IN.map(({ key, title }) => ({ key, title })),
    ...properties.map((name) => ({ key: PROPERTY + name, title: name })),
  ];
}

export function propertiesOf(shown: ReadonlySet<string>): readonly string[] {
  return [...shown].filter((key) => key.startsWith(PROPERTY)).map((key) => key.slice(PROPERTY.length));
}

/** The columns that are shown, after find number, number and name. */
export function billColumns(shown: ReadonlySet<string>): readonly BillColumn[] {
  const own = propertiesOf(shown).map((name) =>
    plain(PROPERTY + name, name, 'minmax(90px, 0.6fr)', ({ values }) => values[name] ?? ''),
  );
  const [find, ...others] = BUILT_IN;
  return [
    ...(find && shown.has('find') ? [find] : []),
    NUMBER,
    NAME,
    ...others.filter(({ key }) => shown.has(key)),
    ...own,
  ];
}

const NUMBER: BillColumn = plain('number', 'Number', 'minmax(170px, 1fr)', ({ number }) => number, {
  hasPicture: true,
  cell: ({ level, state, number, version, isGap, isHidden }) => (
    <span
      style={{ paddingLeft: (level - 1) * 16, display: 'flex', gap: 6, alignItems: 'center', minWidth: 0 }}
    >
      {isGap || isHidden ? null : <Thumb item={`${number}@${version}`} />}
      <StateGlyph state={state} />
      {isHidden ? (
        <Soft>{number}</Soft>
      ) : (
        <Mono>
          <MiddleCut text={number} />
        </Mono>
      )}
    </span>
  ),
});
const NAME: BillColumn = plain('name', 'Name', 'minmax(120px, 1.2fr)', ({ name }) => name, {
  // What counts at times only must not be taken for what counts always, whichever columns are chosen.
  cell: ({ name, planned, actual }) =>
    planned === '' && actual === '' ? (
      <MiddleCut text={name} />
    ) : (
      <WithTag>
        <MiddleCut text={name} />
        <AtTimes effectivity={sayWhen({ planned, actual })} />
      </WithTag>
    ),
});

function sayWhen({ planned, actual }: Pick<BillRow, 'planned' | 'actual'>): string {
  const parts = [planned === '' ? '' : `planned ${planned}`, actual === '' ? '' : `actual ${actual}`];
  return parts.filter((part) => part !== '').join(' · ');
}

const WithTag = styled.span`
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
  > :last-child {
    flex: 0 1 auto;
    min-width: 40px;
  }
`;
