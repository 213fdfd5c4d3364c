/** Bringing revision codes into line with the scheme, for data that came in with codes of its own. */
import { revisionCode, revisionPosition, type RevisionScheme } from './revision-scheme.js';

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

export interface StatedRevision extends RevisionRow {
  /** What the versions of it say that they are, each once, as they are written; none that says nothing. */
  readonly stated: readonly string[];
}

/**
 * What an item's revisions would be called by what their versions say of themselves. Those that say nothing keep their codes. Where
 * something disagrees, nothing of the item is changed, and a sentence for each says why.
 *
 * @returns `O(revisions)`
 */
export function takeStated(
  revisions: readonly StatedRevision[],
  scheme: RevisionScheme = 'letters',
): { readonly changes: readonly AlignedRevision[]; readonly disagrees: readonly string[] } {
  const disagrees: string[] = [];
  let before = 0;
  const changes = [...revisions]
    .sort((a, b) => a.position - b.position)
    .flatMap(({ id, code, stated }) => {
      const [first, ...others] = stated
        .map((each) => each.trim().toUpperCase())
        .filter((each) => each !== '');
      const other = others.find((each) => each !== first);
      if (first !== undefined && other !== undefined)
        disagrees.push(`versions of ${code} say both ${first} and ${other}`);
      const to = first ?? code;
      const position = revisionPosition(to, scheme);
      if (position === undefined && first !== undefined)
        disagrees.push(`${code} says ${first}, which is no revision of the scheme`);
      if (position !== undefined && position <= before)
        disagrees.push(`${code} would be ${to}, which is not after ${revisionCode(before, scheme)}`);
      before = position ?? before;
      return to === code ? [] : [{ id, from: code, to }];
    });
  return { changes: disagrees.length > 0 ? [] : changes, disagrees };
}
