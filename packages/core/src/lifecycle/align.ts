/** Bringing revision codes into line with the scheme, for data that came in with codes of its own. */
import { revisionCode, type RevisionScheme } from './revision-scheme.js';

export interface RevisionRow {
  readonly id: string;
  readonly code: string;
  /** Place among the item's revisions, from 1 without holes. */
  readonly position: number;
}

export interface AlignedRevision {
  readonly id: string;
  readonly from: string;
  readonly to: string;
}

/**
 * What an item's revisions would be called. The first gets `start`, each further one the next code of the scheme; those
 * that have theirs already are left out. `O(revisions)`.
 *
 * @param start position of the first revision in the scheme, from 1
 */
export function alignRevisions(
  revisions: readonly RevisionRow[],
  start = 1,
  scheme: RevisionScheme = 'letters',
): AlignedRevision[] {
  return [...revisions]
    .sort((a, b) => a.position - b.position)
    .flatMap(({ id, code }, index) => {
      const to = revisionCode(start + index, scheme);
      return code === to ? [] : [{ id, from: code, to }];
    });
}
