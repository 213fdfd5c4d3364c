import type { IntakeView } from '@stem-trace/contract';
import type { RowCorrection } from '@stem-trace/core';
import { useEffect, useMemo, useState } from 'react';
import { useDesk } from '../../frame/desk.js';
import { StagedPicture } from '../../pictures/picture.js';
import { Choice, Field, Mono } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor } from '../../ui/grid.js';
import { useTable } from '../../ui/use-table.js';
import { BulkCorrection } from './bulk-correction.js';
import { Line } from './line.js';
import { ReferencesDialog } from './references-dialog.js';
import { reviewColumns } from './review-columns.js';
import { filterOptions, filterRows, type RowFilter } from './row-filter.js';

export interface ReviewTableProps {
  readonly view: IntakeView;
  /** By row key. */
  readonly onCorrect: (corrections: Readonly<Record<string, RowCorrection>>) => void;
  /** Lets a row replace a version that came in since. */
  readonly onReplaceNewer: (key: string) => void;
}

/** What was recognised, row by row; numbers and names can be corrected, rows left out. */
export function ReviewTable({ view, onCorrect, onReplaceNewer }: ReviewTableProps): React.JSX.Element {
  const correct = (key: string, correction: RowCorrection): void => onCorrect({ [key]: correction });
  const [filter, setFilter] = useState<RowFilter>('all');
  const [words, setWords] = useState('');
  const [lookedAt, setLookedAt] = useState<string>();
  const looked = view.rows.find(({ key }) => key === lookedAt);
  const unreadable = view.expected.problems.filter(
    (problem) => !view.rows.some((row) => row.path === problem.file),
  );
  const rows = useMemo(() => filterRows(view.rows, filter, words), [view.rows, filter, words]);
  const { pointAt } = useDesk();
  const columns = reviewColumns({ correct, onReplaceNewer, onLook: setLookedAt });
  const table = useTable('review', rows, columns);
  const cursor = useGridCursor(table.rows, ({ key }) => key, { within: `${filter} ${words}` });
  const under = cursor.row;
  useEffect(() => {
    if (under)
      pointAt(under.status === 'unchanged' || under.status === 'new version' ? under.number : '', {
        title: under.number,
        lines: [under.path, ...under.notes],
        facts: under.properties,
        ...(under.carrier === null
          ? { picture: <StagedPicture sheet={view.id} path={under.path} format={under.format} /> }
          : {}),
      });
    return () => pointAt('');
  }, [pointAt, under, view.id]);
  return (
    <>
      <Line>
        <Choice<RowFilter>
          label="Rows shown"
          options={filterOptions(view.rows)}
          value={filter}
          onChange={setFilter}
        />
        <Field label="Filter" value={words} onChange={setWords} width="150px" />
        <BulkCorrection rows={rows} onCorrect={onCorrect} />
      </Line>
      {unreadable.map((problem) => (
        <p key={problem.file}>
          <AttentionMark>problem</AttentionMark> <Mono>{problem.file}</Mono>
          {problem.line > 0 ? `, line ${problem.line}` : ''}: {problem.reason}
        </p>
      ))}
      <Grid label="Review" {...table.grid} cursor={cursor} takesFocus />
      {looked ? (
        <ReferencesDialog
          row={looked}
          onCorrect={(references) => correct(looked.key, { references })}
          onClose={() => setLookedAt(undefined)}
        />
      ) : null}
    </>
  );
}
