import type { CompareRow } from '@stem-trace/contract';
import { sayPairedBy, sayWhat, type DifferenceSign } from '@stem-trace/core';
import styled from 'styled-components';
import { Mono, Soft } from '../../ui/controls.js';
import { SIGN } from '../../ui/glyphs.js';
import type { GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';

/** @param columns names of properties, each with a column of its own */
export function differenceColumns(
  columns: readonly string[],
  hasFinds: boolean,
): readonly GridColumn<CompareRow>[] {
  return [
    {
      key: 'sign',
      title: '±',
      width: '36px',
      align: 'center',
      sortBy: ({ sign }) => sign,
      cell: ({ sign }) => <Sign sign={sign} />,
    },
    ...(hasFinds ? [FIND] : []),
    {
      key: 'number',
      title: 'Number',
      width: 'minmax(124px, 0.9fr)',
      sortBy: ({ number }) => number,
      cell: (row) => (
        <span style={{ paddingLeft: (row.level - 1) * 16, minWidth: 0 }}>
          <Mono>
            <MiddleCut text={row.number} />
          </Mono>
        </span>
      ),
    },
    {
      key: 'name',
      title: 'Name',
      width: 'minmax(90px, 0.8fr)',
      isMinor: true,
      sortBy: (row) => (row.after ?? row.before)?.name ?? null,
      cell: (row) => <MiddleCut text={(row.after ?? row.before)?.name ?? ''} />,
    },
    { key: 'before', title: 'From', width: '86px', cell: (row) => <SideCell row={row} side="before" /> },
    { key: 'after', title: 'To', width: '86px', cell: (row) => <SideCell row={row} side="after" /> },
    ...columns.map(fieldColumn),
    { key: 'what', title: 'What', width: 'minmax(160px, 1.3fr)', cell: (row) => <What row={row} /> },
  ];
}

const FIND: GridColumn<CompareRow> = {
  key: 'find',
  title: 'Find',
  width: '52px',
  isMinor: true,
  sortBy: (row) => Number((row.after ?? row.before)?.find) || null,
  cell: (row) => <Mono>{(row.after ?? row.before)?.find}</Mono>,
};

function fieldColumn(name: string): GridColumn<CompareRow> {
  return {
    key: `field ${name}`,
    title: name,
    width: 'minmax(90px, 0.7fr)',
    sortBy: (row) => (row.after ?? row.before)?.values[name] ?? null,
    cell: ({ before, after, differs }) => {
      const [old, now] = [before?.values[name] ?? '', after?.values[name] ?? ''];
      if (!before || !after || !differs.fields.includes(name)) return <span>{now || old}</span>;
      const says = `${old || 'none'} → ${now || 'none'}`;
      return (
        <span title={says} style={DIFFERS}>
          {says}
        </span>
      );
    },
  };
}

function What({ row }: { readonly row: CompareRow }): React.JSX.Element {
  const says = sayWhat(row).join('; ');
  const by = sayPairedBy(row.by);
  return (
    <Soft title={[says, by].filter(Boolean).join(' · ')}>
      {says}
      {by === '' ? '' : `${says === '' ? '' : ' · '}${by}`}
    </Soft>
  );
}

export function Sign({ sign }: { readonly sign: DifferenceSign }): React.JSX.Element {
  const { mark, word, ink } = SIGN[sign];
  return (
    <Mark style={{ color: ink }} role="img" aria-label={word}>
      {mark}
    </Mark>
  );
}

/** Version and quantity of one side; what differs stands out. */
function SideCell({
  row,
  side,
}: {
  readonly row: CompareRow;
  readonly side: 'before' | 'after';
}): React.JSX.Element {
  const shown = row[side];
  if (!shown) return <Soft>–</Soft>;
  const version = shown.isGap ? 'gap' : shown.version;
  return (
    <>
      <Mono style={row.differs.version ? DIFFERS : undefined}>{version}</Mono>
      <Mono style={row.differs.quantity ? DIFFERS : undefined}>×{shown.amount}</Mono>
    </>
  );
}

const DIFFERS = { color: colour.changed, fontWeight: 500 } as const;

const Mark = styled.span`
  font-weight: 600;
  font-size: 15px;
  width: 14px;
  text-align: center;
`;
