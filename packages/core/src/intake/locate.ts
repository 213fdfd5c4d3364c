/**
 * Finds the file that a locator means among the files of one intake. What exporters write and what lies on the
 * disk differ in case, in slashes, in folders that only existed on the author's machine, in the ending. Each
 * allowance is tried in turn, the strictest first, and the answer says which one was needed.
 */

export type LocatorMatch =
  | { readonly kind: 'found'; readonly path: string; readonly allowance: Allowance }
  | { readonly kind: 'doubled'; readonly paths: readonly string[] }
  | { readonly kind: 'missing'; readonly outside: boolean };

/** `exact`: as written. `case`: other capitals. `folder`: same name elsewhere. `ending`: other STEP ending. */
export type Allowance = 'exact' | 'case' | 'folder' | 'ending';

const ENDINGS = /\.(stp|step|p21)$/i;

export class FileIndex {
  private readonly exact = new Set<string>();
  private readonly lower = new Map<string, string[]>();
  private readonly baseName = new Map<string, string[]>();
  private readonly stem = new Map<string, string[]>();

  /** @param paths relative paths with `/`, unique */
  constructor(paths: Iterable<string>) {
    for (const path of paths) {
      this.exact.add(path);
      push(this.lower, path.toLowerCase(), path);
      push(this.baseName, base(path).toLowerCase(), path);
      push(this.stem, base(path).toLowerCase().replace(ENDINGS, ''), path);
    }
  }

  /**
   * @param locator as the file writes it
   * @param from path of the file that refers
   */
  find(locator: string, from: string): LocatorMatch {
    const folder = from.includes('/') ? from.slice(0, from.lastIndexOf('/')) : '';
    // A name may hold what looks like percent encoding, so the text as it stands comes first.
    const plain = joinPath(folder, locator);
    if (plain !== undefined && this.exact.has(plain))
      return { kind: 'found', path: plain, allowance: 'exact' };
    const written = normaliseLocator(locator);
    const path = written.absolute ? undefined : joinPath(folder, written.path);
    if (path !== undefined && this.exact.has(path)) return { kind: 'found', path, allowance: 'exact' };
    const sameCase = path === undefined ? undefined : this.lower.get(path.toLowerCase());
    if (sameCase) return one(sameCase, 'case');

    const name = base(written.path).toLowerCase();
    const beside = joinPath(folder, name);
    const besideCase = beside === undefined ? undefined : this.lower.get(beside.toLowerCase());
    if (besideCase) return one(besideCase, 'folder');
    const elsewhere = this.baseName.get(name);
    if (elsewhere) return one(elsewhere, 'folder');
    const otherEnding = this.stem.get(name.replace(ENDINGS, ''));
    if (otherEnding) return one(otherEnding, 'ending');
    return { kind: 'missing', outside: path === undefined };
  }
}

function one(paths: readonly string[], allowance: Allowance): LocatorMatch {
  const [path] = paths;
  return path !== undefined && paths.length === 1
    ? { kind: 'found', path, allowance }
    : { kind: 'doubled', paths };
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
  return { path, absolute: path.startsWith('/') || /^[A-Za-z]:\//.test(path) };
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

/** Base name without its ending. */
export function stemOf(path: string): string {
  const name = base(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(0, dot) : name;
}

function push(map: Map<string, string[]>, key: string, value: string): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
