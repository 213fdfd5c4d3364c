/**
 * Finds the file that a locator means among the files of one intake. What exporters write and what lies on the
 * disk differ in case, in Unicode form, in slashes, in folders that only existed on the author's machine, in the ending.
 * What is certain is asked for first and apart from what is a guess, for between the two the store may know better.
 */
import { addTo } from '../collections.js';
import { nameFold } from '../names/portable.js';

export type LocatorMatch =
  | { readonly kind: 'found'; readonly path: string; readonly allowance: Allowance }
  | { readonly kind: 'doubled'; readonly paths: readonly string[] }
  | { readonly kind: 'missing'; readonly outside: boolean };

/**
 * `exact`: as written. `case`: other capitals or another Unicode form. `folder`: a bare name that is found elsewhere, or an
 * absolute path whose end fits. `ending`: beside, with another STEP ending.
 */
export type Allowance = 'exact' | 'case' | 'folder' | 'ending';

const ENDINGS = /\.(stp|step|p21)$/i;

export class FileIndex {
  private readonly exact = new Set<string>();
  private readonly folded = new Map<string, string[]>();
  private readonly baseName = new Map<string, string[]>();
  private readonly withoutEnding = new Map<string, string[]>();

  /** @param paths relative paths with `/`, unique */
  constructor(paths: Iterable<string>) {
    for (const path of paths) {
      this.exact.add(path);
      addTo(this.folded, nameFold(path), path);
      addTo(this.baseName, nameFold(base(path)), path);
      addTo(this.withoutEnding, nameFold(path).replace(ENDINGS, ''), path);
    }
  }

  /**
   * The surest match there is.
   *
   * @param locator as the file writes it
   * @param from path of the file that refers
   */
  find(locator: string, from: string): LocatorMatch {
    const sure = this.findSure(locator, from);
    return sure.kind === 'missing' ? this.guess(locator, from) : sure;
  }

  /** Only what lies where the locator says: exactly, or in other capitals. */
  findSure(locator: string, from: string): LocatorMatch {
    const { paths, outside } = pathsOf(locator, folderOf(from));
    for (const path of paths) if (this.exact.has(path)) return { kind: 'found', path, allowance: 'exact' };
    for (const path of paths) {
      const found = this.folded.get(nameFold(path));
      if (found) return one(found, 'case');
    }
    return { kind: 'missing', outside };
  }

  /**
   * Files that a locator may mean though it does not say where they lie. A locator that names a folder beside its own file
   * never means a file elsewhere that happens to have the same name.
   */
  guess(locator: string, from: string): LocatorMatch {
    const { paths, outside } = pathsOf(locator, folderOf(from));
    const written = normaliseLocator(locator);
    const name = base(written.path);
    if (written.absolute) {
      const found = this.byLongestEnd(written.path, folderOf(from));
      if (found.length > 0) return one(found, 'folder');
    } else if (!written.path.replace(/^(\.\/)+/, '').includes('/')) {
      const found = this.baseName.get(nameFold(name));
      if (found) return one(found, 'folder');
    }
    for (const path of paths) {
      const found = ENDINGS.test(path)
        ? this.withoutEnding.get(nameFold(path).replace(ENDINGS, ''))
        : undefined;
      if (found) return one(found, 'ending');
    }
    return { kind: 'missing', outside };
  }

  /** The files whose paths end as an absolute one does: with the most folders in common, or just beside. */
  private byLongestEnd(absolute: string, folder: string): string[] {
    const wanted = nameFold(absolute).split('/').filter(Boolean);
    let best = 1;
    let found: string[] = [];
    for (const path of this.baseName.get(wanted.at(-1) ?? '') ?? []) {
      const parts = nameFold(path).split('/');
      let same = 0;
      while (same < parts.length && same < wanted.length && parts.at(-1 - same) === wanted.at(-1 - same))
        same++;
      if (same > best) [best, found] = [same, []];
      if (same === best && (best > 1 || folderOf(path) === folder)) found.push(path);
    }
    return found;
  }
}

function one(paths: readonly string[], allowance: Allowance): LocatorMatch {
  const [path] = paths;
  return path !== undefined && paths.length === 1
    ? { kind: 'found', path, allowance }
    : { kind: 'doubled', paths };
}

/**
 * Paths that a locator may name from a folder, the one as it stands first: a name may hold what looks like percent encoding.
 * `outside` where it climbs out of the root or is absolute.
 */
export function pathsOf(locator: string, folder: string): { paths: string[]; outside: boolean } {
  const written = normaliseLocator(locator);
  const plain = locator.trim().replaceAll('\\', '/');
  const isAbsolute = written.absolute || isAbsolutePath(plain);
  const candidates = [locator.trim(), plain, written.path].flatMap((path) =>
    isAbsolute ? [] : (joinPath(folder, path) ?? []),
  );
  return { paths: [...new Set(candidates)].filter((path) => path !== ''), outside: candidates.length === 0 };
}

/** Slashes forward, percent encoding and `file:` undone, `./` dropped. */
export function normaliseLocator(locator: string): { path: string; absolute: boolean } {
  let path = locator.trim().replace(/^file:\/*/i, '/');
  if (/%[0-9A-Fa-f]{2}/.test(path)) {
    try {
      path = decodeURIComponent(path);
    } catch {
      // Not percent encoding after all: a name may hold such a text.
    }
  }
  path = path.replaceAll('\\', '/');
  return { path, absolute: isAbsolutePath(path) };
}

function isAbsolutePath(path: string): boolean {
  return path.startsWith('/') || /^[A-Za-z]:\//.test(path);
}

/** Joins a relative path to a folder; undefined where it climbs out of the root. */
export function joinPath(folder: string, path: string): string | undefined {
  const parts = folder === '' ? [] : folder.split('/');
  for (const part of path.split('/')) {
    if (part === '' || part === '.') continue;
    if (part !== '..') parts.push(part);
    else if (parts.pop() === undefined) return undefined;
  }
  return parts.join('/');
}

export function base(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

/** Folder of a path; empty at the root. */
export function folderOf(path: string): string {
  return path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
}

/** Base name without its ending. */
export function stemOf(path: string): string {
  const name = base(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(0, dot) : name;
}
