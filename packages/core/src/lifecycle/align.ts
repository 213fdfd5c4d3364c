/** Bringing revision codes into line with the scheme, for data that came in with codes of its own. */
import { revisionCode } from './lifecycle.js';

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
 * @param start position of the first revision in the scheme, 1 for A
 */
export function alignRevisions(revisions: readonly RevisionRow[], start = 1): AlignedRevision[] {
  return [...revisions]
    .sort((a, b) => a.position - b.position)
    .flatMap(({ id, code }, index) => {
      const to = revisionCode(start + index);
      return code === to ? [] : [{ id, from: code, to }];
    });
}

/** Position of a code in the scheme, A is 1; undefined for what is no code of it. Undoes `revisionCode`. */
export function revisionPosition(code: string): number | undefined {
  if (!/^[A-Z]{1,6}$/.test(code)) return undefined;
  for (let position = 1; position < 1_000_000; position++) {
    const candidate = revisionCode(position);
    if (candidate === code) return position;
    if (candidate.length > code.length) return undefined;
  }
  return undefined;
}
