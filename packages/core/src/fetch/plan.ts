/**
 * How a tree of stored versions becomes a folder of files that refer to one another: a path for each file, and
 * for each file the names that it must say. Stored bytes never change; what is fetched says what the store says.
 */
import { nameFold, portableName } from '../names/portable.js';
import type { TitleBlockWords } from '../intake/title-block.js';
import { uniqueFileName } from '../numbering/number.js';

export interface ProductNames {
  /** Instance of the product in the file. */
  readonly ref: number;
  readonly idInFile: string;
  readonly nameInFile: string;
  /** What the store calls it. */
  readonly number: string;
  readonly name: string;
}

export interface FetchFile {
  readonly versionId: string;
  readonly place: string;
  readonly fileName: string;
  /** File name when the bytes were stored; another one now goes into the header. */
  readonly storedFileName: string;
  readonly sha256: string;
  /** Products that live in the file. */
  readonly products: readonly ProductNames[];
  /** Products that the file only names, as a drawing names the part that it shows. */
  readonly names?: readonly ProductNames[];
  /** What the store says of a drawing; absent for files without a title block. */
  readonly titleBlock?: TitleBlockWords;
  readonly references: readonly FetchReference[];
}

export interface FetchReference {
  /** The placeholder's names, for the product that another file defines. */
  readonly product: ProductNames;
  readonly locator: string;
  /** Whether the file names its target in other texts too, so that all of them must be set. */
  readonly isSaidInSeveralWays?: boolean;
  /** Version whose file is meant; absent for a gap. */
  readonly targetVersion?: string;
  /** Why there is no file, where the store knows what is meant. */
  readonly absent?: AbsentTarget;
}

/** An item that a file refers to and that is not handed out with it. */
export interface AbsentTarget {
  /** `lens`: the item has no version under it. `access`: it may not be fetched. */
  readonly because: 'lens' | 'access';
  /** Where its file would lie; absent where even that may not be known. */
  readonly at?: { readonly place: string; readonly fileName: string };
}

export interface Renaming {
  readonly products: readonly RenamedProduct[];
  readonly locators: readonly { readonly ref: number; readonly to: string }[];
  readonly fileName?: string;
  /** What the fields of a title block are to say where they are properties. */
  readonly titleBlock?: TitleBlockWords;
}

export interface RenamedProduct {
  readonly ref: number;
  /** What the file says. */
  readonly was: { readonly id: string; readonly name: string };
  readonly id?: string;
  readonly name?: string;
}

export interface PlannedFile {
  readonly versionId: string;
  /** Relative path with `/`. */
  readonly path: string;
  /** File name when the bytes were stored. */
  readonly storedFileName: string;
  readonly sha256: string;
  readonly renaming: Renaming;
  /** What each reference says in the file as it is handed out, by the product's `ref`. */
  readonly says: ReadonlyMap<number, string>;
}

export interface FetchOptions {
  /** File names at the top of the folder that are not to be used. */
  readonly reserved?: readonly string[];
}

export interface FetchPlan {
  readonly files: readonly PlannedFile[];
  /** References that stay as they are, with the reason. */
  readonly left: readonly { readonly file: string; readonly reason: string }[];
}

/**
 * Plans a fetch: a path for each file that no other file or folder has on any system, and what each file must say.
 * `O(files + references)`.
 */
export function planFetch(files: readonly FetchFile[], { reserved = [] }: FetchOptions = {}): FetchPlan {
  const layout = new Layout(files, reserved);
  const left: { file: string; reason: string }[] = [];
  const planned = files.map((file): PlannedFile => {
    const path = layout.pathOf(file.versionId);
    const says = new Map<number, string>();
    const locators = file.references.flatMap(
      ({ product, locator, isSaidInSeveralWays, targetVersion, absent }) => {
        if (targetVersion === undefined || !layout.has(targetVersion)) {
          left.push({ file: path, reason: reasonFor(locator, product, absent) });
          // A file that is not there must not be said to be what the origin was called.
          if (!absent?.at) return [];
        }
        const target =
          targetVersion !== undefined && layout.has(targetVersion)
            ? layout.pathOf(targetVersion)
            : layout.pathOfAbsent(product.number, absent?.at);
        const to = relativePath(path, target);
        says.set(product.ref, to);
        return to === locator && !isSaidInSeveralWays ? [] : [{ ref: product.ref, to }];
      },
    );
    const known = file.references.filter(
      ({ targetVersion, absent }) => targetVersion !== undefined || absent?.at !== undefined,
    );
    return {
      versionId: file.versionId,
      path,
      storedFileName: file.storedFileName,
      sha256: file.sha256,
      renaming: {
        products: [
          ...[...file.products, ...known.map(({ product }) => product)].flatMap(renameProduct),
          ...namedOnly(file.names ?? []),
        ],
        locators,
        ...(baseOf(path) === file.storedFileName ? {} : { fileName: baseOf(path) }),
        ...(file.titleBlock ? { titleBlock: file.titleBlock } : {}),
      },
      says,
    };
  });
  return { files: planned, left };
}

function reasonFor(locator: string, { number }: ProductNames, absent: AbsentTarget | undefined): string {
  if (absent?.because === 'access') return `'${locator}' is left out: you may not fetch it`;
  // Without a place the reader may not see the item, whose number is not told either.
  if (absent?.because === 'lens')
    return `'${locator}' is left out: ${absent.at ? number : 'it'} has no version under this lens`;
  return `'${locator}' is a gap: ${number || 'its target'} is not in the store`;
}

/** Whether a file can be handed out as it is stored, whatever it says. */
export function isUntouched(renaming: Renaming): boolean {
  return (
    renaming.products.every(({ id, name }) => id === undefined && name === undefined) &&
    renaming.locators.length === 0 &&
    renaming.fileName === undefined &&
    renaming.titleBlock === undefined
  );
}

/** What a file only names is told with its place in any case, so that nothing else that is called the same is taken for it. */
function namedOnly(names: readonly ProductNames[]): RenamedProduct[] {
  return names.map(({ ref, idInFile, number }) => ({
    ref,
    was: { id: idInFile, name: '' },
    ...(number === idInFile ? {} : { id: number }),
  }));
}

/** A blank name in a file stays blank while the item is called by its number only. */
function renameProduct(product: ProductNames): RenamedProduct[] {
  const id = product.number === product.idInFile ? undefined : product.number;
  const sameName =
    product.name === product.nameInFile || (product.nameInFile === '' && product.name === product.number);
  const name = sameName ? undefined : product.name;
  if (id === undefined && name === undefined) return [];
  return [
    {
      ref: product.ref,
      was: { id: product.idInFile, name: product.nameInFile },
      ...(id === undefined ? {} : { id }),
      ...(name === undefined ? {} : { name }),
    },
  ];
}

interface Folder {
  /** By folded name: one folder where several are only spelled differently. */
  readonly folders: Map<string, { readonly name: string; readonly folder: Folder }>;
  /** Folded names of files. */
  readonly files: Set<string>;
}

/**
 * Folders as in the store, from the deepest place that all have in common. Names are made unique where some system would take
 * two for one, or a file for a folder.
 */
class Layout {
  private readonly root: Folder = { folders: new Map(), files: new Set() };
  private readonly common: number;
  private readonly paths = new Map<string, string>();
  private readonly absent = new Map<string, string>();

  constructor(files: readonly FetchFile[], reserved: readonly string[]) {
    const places = files.map(({ place }) => partsOf(place));
    let common = places[0]?.length ?? 0;
    for (const place of places) {
      let same = 0;
      while (same < common && same < place.length && place[same] === places[0]?.[same]) same++;
      common = same;
    }
    this.common = common;
    for (const name of reserved) this.root.files.add(nameFold(name));
    // All folders first, for a file must not take the name of one.
    for (const place of places) this.folderAt(place.slice(common));
    for (const { versionId, place, fileName } of files) this.paths.set(versionId, this.put(place, fileName));
  }

  has(versionId: string): boolean {
    return this.paths.has(versionId);
  }

  pathOf(versionId: string): string {
    return this.paths.get(versionId) ?? '';
  }

  /** Where a file would lie that is not there; no other file gets its name. */
  pathOfAbsent(
    number: string,
    at: { place: string; fileName: string } = { place: '/', fileName: number },
  ): string {
    const known = this.absent.get(number);
    if (known !== undefined) return known;
    const path = this.put(at.place, at.fileName);
    this.absent.set(number, path);
    return path;
  }

  private put(place: string, fileName: string): string {
    const { path, folder } = this.folderAt(partsOf(place).slice(this.common));
    const taken = { has: (name: string) => folder.files.has(name) || folder.folders.has(name) };
    const name = uniqueFileName(portableName(fileName), taken);
    folder.files.add(nameFold(name));
    return path === '' ? name : `${path}/${name}`;
  }

  private folderAt(parts: readonly string[]): { path: string; folder: Folder } {
    let { root: folder } = this;
    const path: string[] = [];
    for (const part of parts) {
      const key = nameFold(portableName(part));
      const next = folder.folders.get(key) ?? {
        name: portableName(part),
        folder: { folders: new Map(), files: new Set() },
      };
      folder.folders.set(key, next);
      path.push(next.name);
      folder = next.folder;
    }
    return { path: path.join('/'), folder };
  }
}

function partsOf(place: string): string[] {
  return place.split('/').filter((part) => part !== '');
}

/** Path to `to` as seen from the folder of the file `from`. */
export function relativePath(from: string, to: string): string {
  const source = from.split('/').slice(0, -1);
  const target = to.split('/');
  let same = 0;
  while (same < source.length && same < target.length - 1 && source[same] === target[same]) same++;
  return [...source.slice(same).map(() => '..'), ...target.slice(same)].join('/');
}

function baseOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
