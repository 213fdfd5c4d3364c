/** Which rows of a review are shown. */
import type { IntakeRowView } from '@stem-trace/contract';

export type RowFilter =
  'all' | 'attention' | 'problem' | 'gap' | 'guess' | 'new' | 'new version' | 'unchanged';

const FITS: Readonly<Record<RowFilter, (row: IntakeRowView) => boolean>> = {
  all: () => true,
  attention: (row) =>
    row.status === 'problem' ||
    row.status === 'refused' ||
    row.status === 'same file' ||
    row.references.gaps > 0 ||
    row.notes.length > 0,
  problem: ({ status }) => status === 'problem' || status === 'refused',
  gap: ({ references }) => references.gaps > 0,
  guess: ({ doubtful }) => doubtful.some(({ number }) => number !== null),
  new: ({ status }) => status === 'new',
  'new version': ({ status }) => status === 'new version',
  unchanged: ({ status }) => status === 'unchanged' || status === 'left out' || status === 'same file',
};

const TEXTS: Readonly<Record<RowFilter, string>> = {
  all: 'All',
  attention: 'Needs attention',
  problem: 'Problems',
  gap: 'Gaps',
  guess: 'Guesses',
  new: 'New',
  'new version': 'New versions',
  unchanged: 'Left out',
};

/** All and those wanting attention always; the others where there are any. */
export function filterOptions(rows: readonly IntakeRowView[]): { key: RowFilter; text: string }[] {
  return (Object.keys(FITS) as RowFilter[]).flatMap((key) => {
    const count = rows.filter(FITS[key]).length;
    return count > 0 || key === 'all' || key === 'attention' ? [{ key, text: `${TEXTS[key]} ${count}` }] : [];
  });
}

/** Rows that fit and hold every word in path, number, name or notes. */
export function filterRows(
  rows: readonly IntakeRowView[],
  filter: RowFilter,
  words: string,
): readonly IntakeRowView[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  if (filter === 'all' && wanted.length === 0) return rows;
  return rows.filter((row) => {
    const text = [row.path, row.number, row.name, ...row.notes].join('\n').toLowerCase();
    return FITS[filter](row) && wanted.every((word) => text.includes(word));
  });
}
