import type { PlanLine } from '@stem-trace/core';
import type { DerivePreview } from '@stem-trace/contract';

import styled from 'styled-components';
import { Mono, PrimaryButton, Soft } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';
import { useTable } from '../../ui/use-table.js';
import { Hindrances } from './hindrances.js';

export interface CheckSheetProps {
  readonly preview: DerivePreview;
  readonly copied: readonly PlanLine[];
  readonly clashes: readonly PlanLine[];
  readonly carryOut: () => void;
  readonly isBusy: boolean;
}

/** All that will be made and shared, what stands in the way, and the button. */
export function CheckSheet({
  preview,
  copied,
  clashes,
  carryOut,
  isBusy,
}: CheckSheetProps): React.JSX.Element {
  const shared = preview.lines.filter((line) => line.decision === 'share');
  const others = preview.lines.filter((line) => line.decision === 'swap' || line.decision === 'omit');
  return (
    <Sheet>
      <section>
        <h2>Will be made, in {preview.place}</h2>
        <Lines label="Will be made" lines={copied} columns={MADE} />
      </section>
      <section>
        <h2>Shared as they are</h2>
        {shared.length === 0 ? (
          <Soft>nothing</Soft>
        ) : (
          <Lines label="Shared as they are" lines={shared} columns={SHARED} />
        )}
        {others.length === 0 ? null : (
          <>
            <h2>Swapped and left out</h2>
            <Lines label="Swapped and left out" lines={others} columns={OTHERS} />
          </>
        )}
      </section>
      <section>
        <h2>In the way</h2>
        <Hindrances all={preview.hindrances} />
        {clashes.slice(0, SHOWN).map((line) => (
          <p key={line.key}>
            <Mono>{line.key}</Mono> <AttentionMark>{line.clash?.says}</AttentionMark>
          </p>
        ))}
        {clashes.length > SHOWN ? <Soft>and {clashes.length - SHOWN} more</Soft> : null}
        <PrimaryButton isDisabled={!preview.ready || isBusy} onPress={carryOut}>
          {isBusy ? 'Making the variant …' : 'Make the variant'}
        </PrimaryButton>
        <Soft>
          One step: all of it is made, or nothing. Then its files are read back and every reference is
          counted.
        </Soft>
      </section>
    </Sheet>
  );
}

/** Most lines that are written out one below the other. */
const SHOWN = 50;

interface LinesProps {
  readonly label: string;
  readonly lines: readonly PlanLine[];
  readonly columns: readonly GridColumn<PlanLine>[];
}

function Lines({ label, lines, columns }: LinesProps): React.JSX.Element {
  const table = useTable(`derive.${label}`, lines, columns);
  const cursor = useGridCursor(table.rows, ({ key }) => key);
  return <Grid label={label} {...table.grid} cursor={cursor} reuses />;
}

const NUMBER: GridColumn<PlanLine> = {
  key: 'number',
  title: 'Number',
  width: 'minmax(80px, 1fr)',
  sortBy: ({ number }) => number,
  cell: ({ number }) => (
    <Mono>
      <MiddleCut text={number} />
    </Mono>
  ),
};
const MADE: readonly GridColumn<PlanLine>[] = [
  NUMBER,
  {
    key: 'new',
    title: 'Copy',
    width: 'minmax(100px, 1.2fr)',
    sortBy: ({ newNumber }) => newNumber,
    cell: ({ newNumber }) => (
      <Strong>
        <MiddleCut text={newNumber ?? ''} />
      </Strong>
    ),
  },
  {
    key: 'file',
    title: 'File',
    width: 'minmax(90px, 1.1fr)',
    cell: ({ fileName }) => <Soft title={fileName ?? undefined}>{fileName ?? 'in its carrier’s file'}</Soft>,
  },
];
const SHARED: readonly GridColumn<PlanLine>[] = [
  NUMBER,
  { key: 'name', title: 'Name', width: 'minmax(90px, 1.3fr)', cell: ({ name }) => <MiddleCut text={name} /> },
  { key: 'version', title: 'Version', width: '66px', cell: ({ version }) => <Soft>{version}</Soft> },
];

const OTHERS: readonly GridColumn<PlanLine>[] = [
  NUMBER,
  {
    key: 'to',
    title: 'Becomes',
    width: 'minmax(90px, 1.3fr)',
    cell: ({ to }) => (to ? <MiddleCut text={`${to.number} ${to.name}`} /> : <Soft>left out</Soft>),
  },
  {
    key: 'reason',
    title: 'Because',
    width: 'minmax(80px, 1fr)',
    cell: ({ reason }) => <Soft>{reason}</Soft>,
  },
];

const Strong = styled(Mono)`
  font-weight: 600;
`;
const Sheet = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1.7fr) minmax(0, 1.1fr) minmax(190px, 0.9fr);
  gap: 12px;
  section {
    min-width: 0;
    min-height: 0;
    display: flex;
    flex-direction: column;
    gap: 8px;
  }
  section:last-child {
    align-items: flex-start;
    background: ${colour.raised};
    border: 1px solid ${colour.line};
    border-radius: 4px;
    padding: 14px;
    overflow: auto;
  }
`;
