/**
 * What a string of a file becomes when products and files get other names. What it is decides: the name of a file from
 * end to end becomes the other path and is never changed word by word; the id or name of a product from end to end
 * becomes the new one; running text gets each whole name replaced, longest first and all at once, so that names may be
 * swapped or contain one another.
 */
import { isFileName, nameKey, pathKey } from './file-names.js';
import { wordReplacer } from './words.js';

export interface ProductRename {
  readonly ref: number;
  readonly id: string;
  readonly name: string;
  /** The same as before where they stay. */
  readonly newId: string;
  readonly newName: string;
}

/** A file that is named, by every text that names it; `to` is one of them where it keeps its name. */
export interface PathRename {
  readonly said: readonly string[];
  readonly to: string;
}

/** What running text about one thing says when another takes its place. */
export function aboutAnother(
  text: string,
  was: { readonly id: string; readonly name: string },
  becomes: { readonly id: string; readonly name: string },
): string {
  const words = new Map<string, string>();
  if (was.name !== '') words.set(was.name, becomes.name);
  if (was.id !== '') words.set(was.id, becomes.id);
  return words.size === 0 ? text : wordReplacer(words)(text);
}

export interface StringPlace {
  /** Whether the string may hold names among other text. */
  readonly isRunningText: boolean;
  /** Products that the string's instance is about. */
  readonly owners: readonly number[];
}

export class Renames {
  private readonly words = new Map<string, string>();
  /** Texts that several products have and that become different things. */
  private readonly doubled = new Set<string>();
  private readonly byRef: ReadonlyMap<number, ProductRename>;
  private readonly paths: PathTable;
  private readonly replaceAll: (text: string) => string;
  private readonly replacePaths: (text: string) => string;

  constructor(products: readonly ProductRename[], paths: readonly PathRename[]) {
    this.byRef = new Map(products.map((product) => [product.ref, product]));
    for (const product of products) {
      // An id decides where a name repeats another product's id.
      this.learn(product.name, product.newName);
    }
    for (const product of products) this.learn(product.id, product.newId);
    this.paths = new PathTable(paths);
    const words = new Map([...this.words, ...this.paths.asWords()]);
    this.replaceAll = wordReplacer(words);
    this.replacePaths = wordReplacer(this.paths.asWords());
  }

  /** Whether any string may change at all. */
  get isEmpty(): boolean {
    return (
      [...this.words].every(([was, becomes]) => was === becomes) &&
      this.doubled.size === 0 &&
      this.paths.isSame
    );
  }

  get hasDoubled(): boolean {
    return this.doubled.size > 0;
  }

  /** What a string becomes that is not an id, a name or a locator by its place. */
  rename(text: string, { isRunningText, owners }: StringPlace): string {
    const whole = text.trim();
    if (whole === '') return text;
    const product = this.productWord(whole, owners);
    const path = this.paths.find(whole);
    if (isRunningText && product !== undefined) return product;
    if (path !== undefined) return path;
    if (product !== undefined) return product;
    if (isFileName(whole) && !this.paths.endsIn(whole)) return text;
    if (!isRunningText) return whole.includes('.') ? this.replacePaths(text) : text;
    return this.doubled.size === 0 || owners.length === 0
      ? this.replaceAll(text)
      : this.ownWords(owners)(text);
  }

  private learn(was: string, becomes: string): void {
    if (was === '') return;
    const before = this.words.get(was);
    if (before !== undefined && before !== becomes) this.doubled.add(was);
    // Where all that have this text get another, any of those is nearer the truth than the old one.
    if (before === undefined || before === was || becomes !== was) this.words.set(was, becomes);
    if (this.doubled.has(was) && (before === was || becomes === was)) this.words.set(was, was);
  }

  private productWord(text: string, owners: readonly number[]): string | undefined {
    if (this.doubled.has(text)) {
      for (const ref of owners) {
        const owner = this.byRef.get(ref);
        if (owner?.id === text) return owner.newId;
        if (owner?.name === text) return owner.newName;
      }
    }
    return this.words.get(text);
  }

  private ownWords(owners: readonly number[]): (text: string) => string {
    const words = new Map([...this.words, ...this.paths.asWords()]);
    for (const ref of [...owners].reverse()) {
      const owner = this.byRef.get(ref);
      if (owner?.name) words.set(owner.name, owner.newName);
      if (owner?.id) words.set(owner.id, owner.newId);
    }
    return wordReplacer(words);
  }
}

/** Finds what a path becomes: by its very text, by the path in other capitals, by the name alone where that is one. */
class PathTable {
  private readonly exact = new Map<string, string>();
  private readonly byPath = new Map<string, string | undefined>();
  private readonly byName = new Map<string, string | undefined>();
  readonly isSame: boolean;

  constructor(paths: readonly PathRename[]) {
    for (const { said, to } of paths) {
      for (const text of said) {
        this.exact.set(text.trim(), to);
        add(this.byPath, pathKey(text), to);
        add(this.byName, nameKey(text), to);
      }
    }
    this.isSame = paths.every(({ said, to }) => said.every((text) => text === to));
  }

  find(text: string): string | undefined {
    if (!isFileName(text) && !this.exact.has(text)) return undefined;
    const known = this.exact.get(text) ?? this.byPath.get(pathKey(text));
    return known ?? (/[\\/]/.test(text) ? undefined : this.byName.get(nameKey(text)));
  }

  /** Whether a longer text ends in one of these files' names. */
  endsIn(text: string): boolean {
    const end = text.normalize('NFC').toLowerCase();
    return [...this.byName.keys()].some(
      (name) =>
        end.length > name.length &&
        end.endsWith(name) &&
        /[\s('"=:]/.test(end[end.length - name.length - 1] ?? ''),
    );
  }

  asWords(): Map<string, string> {
    const words = new Map<string, string>();
    for (const [text, to] of this.exact) {
      const name = text.slice(Math.max(text.lastIndexOf('/'), text.lastIndexOf('\\')) + 1);
      const byName = this.byName.get(nameKey(name));
      if (isFileName(name) && byName !== undefined) words.set(name, byName);
      if (isFileName(text)) words.set(text, to);
    }
    return words;
  }
}

/** Keeps what a key means; undefined where it means several things. */
function add(map: Map<string, string | undefined>, key: string, to: string): void {
  map.set(key, map.has(key) && map.get(key) !== to ? undefined : to);
}
