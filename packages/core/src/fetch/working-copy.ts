/**
 * A working copy against what is on the disk and what the store would hand out now: what differs, and how it is brought up
 * to date without touching what somebody has changed.
 */
import { numberKey } from '../numbering/number.js';

/** A file as it was handed out. */
export interface CopiedFile {
  readonly path: string;
  /** Of the bytes as they were handed out. */
  readonly sha256: string;
  /** What lives in it; what it is about first. */
  readonly items: readonly { readonly number: string; readonly version: string }[];
  /** What it refers to; a number is null where it may not be known. */
  readonly references?: readonly { readonly number: string | null }[] | undefined;
}

/** A file as it would be handed out now. */
export interface PlannedCopy {
  readonly path: string;
  readonly items: readonly {
    readonly number: string;
    readonly version: string;
    /** Who holds it; null where nobody does. */
    readonly heldBy: { readonly login: string; readonly name: string } | null;
  }[];
}

/** SHA-256 of what is on the disk, by path. */
export type DiskFiles = ReadonlyMap<string, string>;

interface Spot {
  readonly path: string;
  readonly number: string;
}

/** What differs; a file may stand in several lists. */
export interface CopyStatus {
  /** Not what was handed out. */
  readonly changed: readonly Spot[];
  /** The store has another version to hand out. */
  readonly behind: readonly (Spot & { readonly here: string; readonly store: string })[];
  readonly held: readonly (Spot & { readonly login: string; readonly name: string })[];
  /** Would be handed out under another path: renamed, or moved. */
  readonly moved: readonly (Spot & { readonly to: string })[];
  /** Was handed out and is not on the disk. */
  readonly missing: readonly Spot[];
  /** On the disk and never handed out. */
  readonly fresh: readonly string[];
  /** Belongs to it by now. */
  readonly added: readonly (Spot & { readonly store: string })[];
  /** Does not belong to it any more, or may not be fetched any more. */
  readonly gone: readonly Spot[];
}

/** Compares a working copy. `O(files)`. */
export function compareWorkingCopy(
  copied: readonly CopiedFile[],
  planned: readonly PlannedCopy[],
  disk: DiskFiles,
): CopyStatus {
  const now = new Map(planned.map((file) => [keyOf(file), file]));
  const before = new Set(copied.map(keyOf));
  const known = new Set(copied.map(({ path }) => path));
  const spots = copied.map((file) => ({
    file,
    now: now.get(keyOf(file)),
    spot: { path: file.path, number: file.items[0]?.number ?? file.path },
  }));
  return {
    changed: spots.filter(({ file }) => isChanged(file, disk)).map(({ spot }) => spot),
    behind: spots.flatMap(({ file, now: plan, spot }) => {
      const newer = plan?.items.find((item) => {
        const here = file.items.find(({ number }) => numberKey(number) === numberKey(item.number));
        return here !== undefined && here.version !== item.version;
      });
      if (!newer) return [];
      const here = file.items.find(({ number }) => numberKey(number) === numberKey(newer.number));
      return [{ ...spot, number: newer.number, here: here?.version ?? '', store: newer.version }];
    }),
    held: spots.flatMap(({ now: plan, spot }) =>
      (plan?.items ?? []).flatMap(({ number, heldBy }) =>
        heldBy ? [{ ...spot, number, login: heldBy.login, name: heldBy.name }] : [],
      ),
    ),
    moved: spots.flatMap(({ now: plan, spot }) =>
      plan && plan.path !== spot.path ? [{ ...spot, to: plan.path }] : [],
    ),
    missing: spots.filter(({ file }) => !disk.has(file.path)).map(({ spot }) => spot),
    fresh: [...disk.keys()].filter((path) => !known.has(path)).sort(),
    added: planned
      .filter((file) => !before.has(keyOf(file)))
      .map(({ path, items }) => ({
        path,
        number: items[0]?.number ?? path,
        store: items[0]?.version ?? '',
      })),
    gone: spots.filter(({ now: plan }) => !plan).map(({ spot }) => spot),
  };
}

export interface UpdatePlan<F extends CopiedFile> {
  /** Files whose bytes are written, at their new paths. */
  readonly write: readonly F[];
  /** Paths that are taken away: unchanged files that moved, or do not belong to it any more. */
  readonly remove: readonly string[];
  /** What is left as it is, and why, as the end of a sentence. */
  readonly kept: readonly { readonly path: string; readonly reason: string }[];
  /** What the manifest says afterwards. */
  readonly files: readonly F[];
}

/**
 * Plans how a working copy is brought up to date. Nothing that somebody changed or added is written or taken away; what a
 * changed file refers to stays where it is. `O(files + references)`, and as much again for each
 * file in a row whose new path is taken.
 */
export function planUpdate<F extends CopiedFile>(
  copied: readonly F[],
  fresh: readonly F[],
  disk: DiskFiles,
): UpdatePlan<F> {
  const old = new Map(copied.map((file) => [keyOf(file), file]));
  const coming = new Set(fresh.map(keyOf));
  const shut = shutPaths(copied, fresh, { old, disk });
  const [write, files, remove] = [[] as F[], [] as F[], new Set<string>()];
  const kept = new Map<string, string>();
  for (const file of fresh) {
    const here = old.get(keyOf(file));
    const why = whyKept(file, here, { shut, disk });
    if (why) {
      kept.set(why.path, why.reason);
      if (here && disk.has(here.path)) files.push(here);
      continue;
    }
    if (disk.get(file.path) !== file.sha256) write.push(file);
    files.push(file);
    if (!here || here.path === file.path || !disk.has(here.path)) continue;
    const wanted = shut.get(here.path);
    if (wanted === undefined) remove.add(here.path);
    else kept.set(here.path, wanted);
  }
  for (const file of copied) {
    if (coming.has(keyOf(file)) || !disk.has(file.path)) continue;
    const wanted = shut.get(file.path);
    if (wanted === undefined) remove.add(file.path);
    else {
      kept.set(file.path, wanted);
      files.push(file);
    }
  }
  for (const { path } of [...write, ...files]) remove.delete(path);
  return {
    write,
    remove: [...remove],
    kept: [...kept].map(([path, reason]) => ({ path, reason })),
    files,
  };
}

/** Why a file is not brought, with the path that stays as it is; undefined where it is. */
function whyKept(
  file: CopiedFile,
  here: CopiedFile | undefined,
  { shut, disk }: { readonly shut: ReadonlyMap<string, string>; readonly disk: DiskFiles },
): { readonly path: string; readonly reason: string } | undefined {
  // An update that was broken off may have written it already.
  if (disk.get(file.path) === file.sha256 && (!here || here.path === file.path)) return undefined;
  if (here && isChanged(here, disk)) return { path: here.path, reason: CHANGED };
  const reason = here?.path === file.path ? undefined : shut.get(file.path);
  return reason === undefined ? undefined : { path: file.path, reason };
}

const CHANGED = 'changed here';
const OWN = 'a file of yours lies there';

/** Paths that stay as they are, with the reason; a file that cannot come to one of them keeps the one that it has. */
function shutPaths(
  copied: readonly CopiedFile[],
  fresh: readonly CopiedFile[],
  { old, disk }: { readonly old: ReadonlyMap<string, CopiedFile>; readonly disk: DiskFiles },
): Map<string, string> {
  const tracked = new Set(copied.map(({ path }) => path));
  const shut = new Map([...disk.keys()].filter((path) => !tracked.has(path)).map((path) => [path, OWN]));
  for (const [path, user] of wantedByChanged(copied, old, disk))
    shut.set(path, `${user}, which is changed here, refers to it`);
  for (const file of copied) if (isChanged(file, disk)) shut.set(file.path, CHANGED);
  for (let isStable = false; !isStable;) {
    isStable = true;
    for (const file of fresh) {
      const here = old.get(keyOf(file));
      if (!here || !disk.has(here.path) || shut.has(here.path)) continue;
      if (!whyKept(file, here, { shut, disk })) continue;
      shut.set(here.path, `what would lie there has no room at ${file.path}`);
      isStable = false;
    }
  }
  return shut;
}

/** Paths that changed files refer to, each with one such file. */
function wantedByChanged(
  copied: readonly CopiedFile[],
  old: ReadonlyMap<string, CopiedFile>,
  disk: DiskFiles,
): Map<string, string> {
  const wanted = new Map<string, string>();
  for (const file of copied) {
    if (!isChanged(file, disk)) continue;
    for (const { number } of file.references ?? []) {
      const target = number === null ? undefined : old.get(numberKey(number));
      if (target) wanted.set(target.path, file.path);
    }
  }
  return wanted;
}

function isChanged({ path, sha256 }: CopiedFile, disk: DiskFiles): boolean {
  const here = disk.get(path);
  return here !== undefined && here !== sha256;
}

/** A file is the same as long as it is about the same item, wherever it lies. */
function keyOf({
  items,
  path,
}: {
  readonly items: readonly { readonly number: string }[];
  readonly path: string;
}): string {
  return numberKey(items[0]?.number ?? `/${path}`);
}
