import type { DeriveLine } from '@stem-trace/contract';

import styled from 'styled-components';
import { Field, Mono, Soft } from '../../ui/controls.js';
import { EditCell } from '../../ui/edit-cell.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import type { DeriveDraft } from './draft.js';

export interface NameTableProps {
  readonly lines: readonly DeriveLine[];
  readonly draft: DeriveDraft;
  readonly onChange: (changes: Partial<DeriveDraft>) => void;
}

/** What the copies will be called: by a pattern for all, and by hand where that does not fit. */
export function NameTable({ lines, draft, onChange }: NameTableProps): React.JSX.Element {
  const cursor = useGridCursor(lines, ({ number }) => number);
  const rename: Rename = (number, names) =>
    onChange({ renamed: { ...draft.renamed, [number]: { ...draft.renamed[number], ...names } } });
  const columns = nameColumns(rename);
  return (
    <>
      <Bar>
        <Field
          label="Find in numbers and names"
          value={draft.find}
          onChange={(find) => onChange({ find })}
          mono
          width="180px"
          placeholder="FM-"
        />
        <Field
          label="Replace by"
          value={draft.replace}
          onChange={(replace) => onChange({ replace })}
          mono
          width="180px"
          placeholder="FT-"
        />
        <Field
          label="Put before numbers"
          value={draft.prefix}
          onChange={(prefix) => onChange({ prefix })}
          mono
          width="140px"
        />
        <Field
          label="Place (that of the origin where empty)"
          value={draft.place}
          onChange={(place) => onChange({ place })}
          width="240px"
          placeholder="/Projects/…"
        />
      </Bar>
      <Grid label="Names of the copies" columns={columns} cursor={cursor} />
    </>
  );
}

type Rename = (number: string, names: { readonly number?: string; readonly name?: string }) => void;

function nameColumns(rename: Rename): readonly GridColumn<DeriveLine>[] {
  return [
    {
      key: 'origin',
      title: 'Origin',
      width: 'minmax(110px, 0.7fr)',
      cell: (line) => (
        <Mono>
          <MiddleCut text={line.number} />
        </Mono>
      ),
    },
    {
      key: 'number',
      title: 'New number',
      width: 'minmax(150px, 1fr)',
      cell: (line) => (
        <EditCell
          mono
          label={`New number for ${line.number}`}
          value={line.newNumber ?? ''}
          onCommit={(number) => rename(line.number, { number })}
        />
      ),
    },
    {
      key: 'name',
      title: 'New name',
      width: 'minmax(160px, 1.2fr)',
      cell: (line) => (
        <EditCell
          label={`New name for ${line.number}`}
          value={line.newName ?? ''}
          onCommit={(name) => rename(line.number, { name })}
        />
      ),
    },
    {
      key: 'file',
      title: 'File',
      width: 'minmax(140px, 1fr)',
      cell: (line) => (
        <Soft>
          <MiddleCut text={line.fileName ?? 'in its carrier’s file'} />
        </Soft>
      ),
    },
    {
      key: 'clash',
      title: 'In the way',
      width: 'minmax(160px, 1.2fr)',
      cell: (line) =>
        line.clash ? <AttentionMark title={line.clash.says}>{line.clash.says}</AttentionMark> : null,
    },
  ];
}

const Bar = styled.div`
  display: flex;
  gap: 10px;
  align-items: end;
  flex-wrap: wrap;
`;
