import type { IntakeRowView } from '@stem-trace/contract';
import type { RowCorrection } from '@stem-trace/core';
import { Link } from 'react-router';
import { compareAddress } from '../../frame/addresses.js';
import { Mono, QuietButton, Soft } from '../../ui/controls.js';
import { EditCell } from '../../ui/edit-cell.js';
import { AttentionMark } from '../../ui/glyphs.js';
import type { GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { Tick } from '../../ui/tick.js';

interface ReviewActs {
  readonly correct: (key: string, correction: RowCorrection) => void;
  /** Lets a row replace a version that came in since. */
  readonly onReplaceNewer: (key: string) => void;
  /** Looks at what a row refers to. */
  readonly onLook: (key: string) => void;
}

type Column = GridColumn<IntakeRowView>;

const NOT_COMING_IN: ReadonlySet<IntakeRowView['status']> = new Set([
  'left out',
  'refused',
  'problem',
  'same file',
]);

/** Columns of the review: what was recognised, each cell to be corrected where that makes sense. */
export function reviewColumns({ correct, onReplaceNewer, onLook }: ReviewActs): readonly Column[] {
  return [
    {
      key: 'in',
      title: 'In',
      width: '40px',
      align: 'center',
      cell: (row) => (
        <Tick
          aria-label={`Bring in ${row.number}`}
          isSelected={!NOT_COMING_IN.has(row.status)}
          isDisabled={row.carrier !== null}
          onChange={(selected) => correct(row.key, { leaveOut: !selected })}
        />
      ),
    },
    {
      key: 'path',
      title: 'File',
      width: 'minmax(150px, 1.4fr)',
      sortBy: ({ path }) => path,
      cell: (row) =>
        row.carrier === null ? <MiddleCut text={row.path} /> : <Soft>in the file of {row.carrier}</Soft>,
    },
    ...nameColumns(correct),
    {
      key: 'kind',
      isMinor: true,
      title: 'Kind',
      width: '76px',
      sortBy: ({ kind }) => kind,
      cell: (row) => row.kind,
    },
    {
      key: 'status',
      title: 'Becomes',
      width: '102px',
      sortBy: ({ status }) => status,
      cell: (row) => <Status row={row} onReplaceNewer={onReplaceNewer} />,
    },
    belongsColumn(correct),
    {
      key: 'references',
      title: 'Refers to',
      width: '92px',
      sortBy: ({ references }) => references.gaps,
      cell: (row) => <References row={row} onLook={() => onLook(row.key)} />,
    },
    {
      key: 'notes',
      title: 'Notes',
      isMinor: true,
      width: 'minmax(70px, 0.6fr)',
      sortBy: ({ notes }) => notes.join(' '),
      cell: (row) => <Soft title={row.notes.join('\n')}>{row.notes.join(' ')}</Soft>,
    },
  ];
}

function nameColumns(correct: ReviewActs['correct']): readonly Column[] {
  return [
    {
      key: 'number',
      title: 'Number',
      width: 'minmax(116px, 0.9fr)',
      sortBy: ({ number }) => number,
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
      width: 'minmax(96px, 1fr)',
      sortBy: ({ name }) => name,
      cell: (row) => (
        <EditCell
          label={`Name of ${row.number}`}
          value={row.name}
          onCommit={(name) => correct(row.key, { name })}
        />
      ),
    },
  ];
}

/** Which model a drawing or document belongs to. */
function belongsColumn(correct: ReviewActs['correct']): Column {
  return {
    key: 'belongs',
    isMinor: true,
    title: 'Belongs to',
    width: '102px',
    cell: (row) =>
      row.kind === 'part' || row.kind === 'assembly' ? null : (
        <EditCell
          mono
          label={`Model that ${row.number} belongs to`}
          value={row.belongsTo ?? ''}
          onCommit={(belongsTo) => correct(row.key, { belongsTo })}
        />
      ),
  };
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
