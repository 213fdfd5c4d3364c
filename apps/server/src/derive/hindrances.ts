/** What stands in the way of a derivation, or should be known before it: summed up, each with what can be done about it. */
import type { DeriveHindrance } from '@stem-trace/contract';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { formatOf } from '../store/facts.js';
import type { Prepared } from './planner.service.js';

const REWRITTEN: ReadonlySet<string> = new Set(['step', 'dxf']);

export function hindrancesOf(
  { plan, versions, nodes, links, linkIds, book }: Prepared,
  { login, newest }: { readonly login: string; readonly newest: ReadonlyMap<string, string> },
): DeriveHindrance[] {
  const named = plan.lines.filter(({ clash }) => clash?.of === 'name');
  const decided = plan.lines.filter(({ clash }) => clash?.of === 'decision');
  const used = new Set(
    plan.lines.flatMap(({ itemId, decision }) => (decision === 'copy' || decision === 'share' ? itemId : [])),
  );
  const standing = nodes.flatMap(({ versionId, itemId }) =>
    used.has(itemId) ? (versions.get(versionId) ?? []) : [],
  );
  const copied = new Set(plan.made.map(({ versionId }) => versionId));
  const held = standing.filter(
    ({ id, heldBy }) => copied.has(id) && heldBy !== null && heldBy.login !== login,
  );
  const behind = standing.filter(({ id, itemId }) => newest.has(itemId) && newest.get(itemId) !== id);
  const outOfUse = standing.filter(({ state }) => book.get(state)?.lane === 'out of use');
  const gaps = nodes.filter(({ itemId, gaps: own = [] }) => used.has(itemId) && own.length > 0);
  const fixed = standing.filter(
    ({ id, carrierVersion, facts }) =>
      copied.has(id) && carrierVersion === null && !REWRITTEN.has(formatOf(facts)),
  );
  const drawnOn = plan.changed.flatMap(({ versionId, uses }) => {
    const relationOf = new Map(links.get(versionId)?.map(({ id, relation }) => [id, relation]));
    const isLeftOut = uses.some(
      (becomes, at) =>
        becomes.some(({ kind }) => kind === 'nothing') &&
        relationOf.get(linkIds.get(versionId)?.[at] ?? '') === 'draws on',
    );
    return isLeftOut ? (versions.get(versionId) ?? []) : [];
  });
  const all: (DeriveHindrance | undefined)[] = [
    hindrance('number', true, named, {
      says: (count) =>
        `${count === 1 ? 'A copy needs another number' : `${count} copies need other numbers`}`,
      help: 'Change one number in the tree; the others follow. Or choose a number scheme.',
    }),
    hindrance('decision', true, decided, {
      says: (count) => `${count === 1 ? 'A decision' : `${count} decisions`} cannot be kept`,
      help: 'The line says why. Decide about it otherwise, or take the file apart first.',
    }),
    hindrance('file', true, drawnOn, {
      says: (count) =>
        `${count === 1 ? 'A file draws' : `${count} files draw`} on something that is left out`,
      help: 'What a file draws on cannot be taken out of it. Share or swap it instead.',
    }),
    hindrance('held', false, distinct(held), {
      says: (count) =>
        `${count === 1 ? 'An item that is copied is' : `${count} items that are copied are`} held by others`,
      help: 'What they check in later is not in the copies. Wait for it, or carry it over afterwards.',
    }),
    hindrance('withdrawn', false, distinct(outOfUse), {
      says: (count) =>
        `${count === 1 ? 'A withdrawn item goes' : `${count} withdrawn items go`} into the variant`,
      help: 'Swap it for what replaces it, or leave it out.',
    }),
    hindrance('behind', false, distinct(behind), {
      says: (count) =>
        `${count === 1 ? 'An item is' : `${count} items are`} used in an older version than there is`,
      help: 'The variant gets what the origin recorded. Catch up in the origin first where the newest is wanted.',
    }),
    hindrance('gap', false, gaps, {
      says: (count) =>
        `${count === 1 ? 'An item refers' : `${count} items refer`} to files that the store does not have`,
      help: 'The gaps stay gaps in the copies. Take the missing files in to fill them.',
    }),
    hindrance('file', false, distinct(fixed), {
      says: (count) => `${count === 1 ? 'A copied file' : `${count} copied files`} cannot be rewritten`,
      help: 'The copies have the same content, which may name the origin. They are listed in the proof as work to do.',
    }),
  ];
  return all.flatMap((each) => each ?? []);
}

function distinct(versions: readonly DescribedVersion[]): DescribedVersion[] {
  return [...new Map(versions.map((version) => [version.itemId, version])).values()];
}

function hindrance(
  kind: DeriveHindrance['kind'],
  stops: boolean,
  of: readonly { readonly number: string }[],
  { says, help }: { readonly says: (count: number) => string; readonly help: string },
): DeriveHindrance | undefined {
  if (of.length === 0) return undefined;
  return { kind, stops, says: says(of.length), help, numbers: of.map(({ number }) => number) };
}
