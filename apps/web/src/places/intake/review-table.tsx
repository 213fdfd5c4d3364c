import type { IntakeRowView, IntakeView } from '@stem-trace/contract';
import type { RowCorrection } from '@stem-trace/core';
import { useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { compareAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Choice, Field, Mono, QuietButton, Soft } from '../../ui/controls.js';
import { EditCell } from '../../ui/edit-cell.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { BulkCorrection } from './bulk-correction.js';
import { Line } from './line.js';
import { ReferencesDialog } from './references-dialog.js';
import { filterOptions, filterRows, type RowFilter } from './row-filter.js';
import { Tick } from '../../ui/tick.js';

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
  const [cursor, setCursor] = useState(0);
  const [filter, setFilter] = useState<RowFilter>('all');
  const [words, setWords] = useState('');
  const [lookedAt, setLookedAt] = useState<string>();
  const looked = view.rows.find(({ key }) => key === lookedAt);
  const unreadable = view.expected.problems.filter(
    (problem) => !view.rows.some((row) => row.path === problem.file),
  );
  const rows = useMemo(() => filterRows(view.rows, filter, words), [view.rows, filter, words]);
  const { pointAt } = useDesk();
  const under = rows[cursor];
  useEffect(() => {
    if (under)
      pointAt(under.status === 'unchanged' || under.status === 'new version' ? under.number : '', {
        title: under.number,
        lines: [under.path, ...under.notes],
      });
    return () => pointAt('');
  }, [pointAt, under]);
  const columns: readonly GridColumn<IntakeRowView>[] = [
    {
      key: 'in',
      title: 'In',
      width: '40px',
      align: 'center',
      cell: (row) => (
        <Tick
          aria-label={`Bring in ${row.number}`}
          isSelected={
            row.status !== 'left out' &&
            row.status !== 'refused' &&
            row.status !== 'problem' &&
            row.status !== 'same file'
          }
          isDisabled={row.carrier !== null}
          onChange={(selected) => correct(row.key, { leaveOut: !selected })}
        />
      ),
    },
    {
      key: 'path',
      title: 'File',
      width: 'minmax(104px, 1fr)',
      cell: (row) =>
        row.carrier === null ? <MiddleCut text={row.path} /> : <Soft>in the file of {row.carrier}</Soft>,
    },
    {
      key: 'number',
      title: 'Number',
      width: 'minmax(110px, 0.9fr)',
      cell: (row) => (
        <EditCell
          mono
          label={`Number of ${row.path}`}
          value={row.number}
          onCommit={(number) => correct(row.key, { number })}
        />
      ),
    },
    {
      key: 'name',
      title: 'Name',
      width: 'minmax(104px, 1fr)',
      cell: (row) => (
        <EditCell
          label={`Name of ${row.number}`}
          value={row.name}
          onCommit={(name) => correct(row.key, { name })}
        />
      ),
    },
    { key: 'kind', title: 'Kind', width: '78px', cell: (row) => row.kind },
    {
      key: 'status',
      title: 'Becomes',
      width: '122px',
      cell: (row) => <Status row={row} onReplaceNewer={onReplaceNewer} />,
    },
    {
      key: 'belongs',
      title: 'Belongs to',
      width: '92px',
      cell: (row) =>
        row.kind === 'part' || row.kind === 'assembly' ? null : (
          <EditCell
            mono
            label={`Model that ${row.number} belongs to`}
            value={row.belongsTo ?? ''}
            onCommit={(belongsTo) => correct(row.key, { belongsTo })}
          />
        ),
    },
    {
      key: 'references',
      title: 'Refers to',
      width: '112px',
      cell: (row) => <References row={row} onLook={() => setLookedAt(row.key)} />,
    },
    {
      key: 'notes',
      title: 'Notes',
      width: 'minmax(100px, 1.2fr)',
      cell: (row) => <Soft title={row.notes.join('\n')}>{row.notes.join(' ')}</Soft>,
    },
  ];
  return (
    <>
      <Line>
        <Choice<RowFilter>
          label="Rows shown"
          options={filterOptions(view.rows)}
          value={filter}
          onChange={setFilter}
        />
        <Field label="With these words" value={words} onChange={setWords} width="150px" />
        <BulkCorrection rows={rows} onCorrect={onCorrect} />
      </Line>
      {unreadable.map((problem) => (
        <p key={problem.file}>
          <AttentionMark>problem</AttentionMark> <Mono>{problem.file}</Mono>
          {problem.line > 0 ? `, line ${problem.line}` : ''}: {problem.reason}
        </p>
      ))}
      <Grid
        label="Review"
        columns={columns}
        rowCount={rows.length}
        row={(index) => rows[index]}
        cursor={cursor}
        onCursor={setCursor}
        takesFocus
      />
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

function Status({
  row,
  onReplaceNewer,
}: {
  readonly row: IntakeRowView;
  readonly onReplaceNewer: (key: string) => void;
}): React.JSX.Element {
  if (row.status === 'problem') return <AttentionMark>problem</AttentionMark>;
  if (row.canOverwrite) {
    return (
      <>
        {row.madeFrom === null ? null : (
          <Link
            to={compareAddress(`${row.number}@${row.madeFrom ?? ''}`, `${row.number}@${row.existing ?? ''}`)}
            target="_blank"
            title="What changed since this was fetched"
          >
            Compare
          </Link>
        )}{' '}
        <QuietButton
          aria-label={`Replace ${row.number} ${row.existing ?? ''}`}
          onPress={() => onReplaceNewer(row.key)}
        >
          Replace {row.existing}
        </QuietButton>
      </>
    );
  }
  if (row.status === 'refused') return <AttentionMark>refused</AttentionMark>;
  if (row.status === 'new version')
    return (
      <>
        new version{' '}
        <Soft>
          after <Mono>{row.existing}</Mono>
        </Soft>
      </>
    );
  if (row.status === 'unchanged')
    return (
      <Soft>
        unchanged <Mono>{row.existing}</Mono>
      </Soft>
    );
  return row.status === 'new' ? <>new item</> : <Soft>{row.status}</Soft>;
}

function References({
  row,
  onLook,
}: {
  readonly row: IntakeRowView;
  readonly onLook: () => void;
}): React.JSX.Element {
  const { resolved, gaps } = row.references;
  const guesses = row.doubtful.length - row.doubtful.filter(({ number }) => number === null).length;
  const says = [
    ...(gaps > 0 ? [`${gaps} ${gaps === 1 ? 'gap' : 'gaps'}`] : []),
    ...(guesses > 0 ? [`${guesses} ${guesses === 1 ? 'guess' : 'guesses'}`] : []),
  ].join(', ');
  return (
    <>
      {resolved > 0 ? resolved : <Soft>–</Soft>}{' '}
      {row.doubtful.length > 0 ? (
        <QuietButton aria-label={`References of ${row.number}: ${says}`} onPress={onLook}>
          <AttentionMark>{says}</AttentionMark>
        </QuietButton>
      ) : gaps > 0 ? (
        <AttentionMark>{says}</AttentionMark>
      ) : null}
    </>
  );
}
