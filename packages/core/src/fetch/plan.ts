/**
 * How a tree of stored versions becomes a folder of files that refer to one another: a path for each file, and
 * for each file the names that it must say. Stored bytes never change; what is fetched says what the store says.
 */
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
  readonly references: readonly FetchReference[];
}

export interface FetchReference {
  /** The placeholder's names, for the product that another file defines. */
  readonly product: ProductNames;
  readonly locator: string;
  /** Version whose file is meant; absent for a gap. */
  readonly targetVersion?: string;
  /** Whether the target is there, but not for the one who asks. */
  readonly keptBack?: boolean;
}

export interface Renaming {
  readonly products: readonly RenamedProduct[];
  readonly locators: readonly { readonly ref: number; readonly to: string }[];
  readonly fileName?: string;
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
}

export interface FetchPlan {
  readonly files: readonly PlannedFile[];
  /** References that stay as they are, with the reason. */
  readonly left: readonly { readonly file: string; readonly reason: string }[];
}

/** Plans a fetch. `O(files + references)`. */
export function planFetch(files: readonly FetchFile[]): FetchPlan {
  const paths = layOut(files);
  const left: { file: string; reason: string }[] = [];
  const planned = files.map((file): PlannedFile => {
    const path = paths.get(file.versionId) ?? file.fileName;
    const locators = file.references.flatMap(({ product, locator, targetVersion, keptBack }) => {
      const target = targetVersion === undefined ? undefined : paths.get(targetVersion);
      if (target === undefined) {
        left.push({
          file: path,
          reason: keptBack
            ? `'${locator}' is left out: you may not fetch it`
            : `'${locator}' is a gap: ${product.number || 'its target'} is not in the store`,
        });
        return [];
      }
      const to = relativePath(path, target);
      return to === locator ? [] : [{ ref: product.ref, to }];
    });
    const resolved = file.references.filter((reference) => reference.targetVersion !== undefined);
    return {
      versionId: file.versionId,
      path,
      storedFileName: file.storedFileName,
      sha256: file.sha256,
      renaming: {
        products: [
          ...file.products,
          ...(file.names ?? []),
          ...resolved.map(({ product }) => product),
        ].flatMap(renameProduct),
        locators,
        ...(baseOf(path) === file.storedFileName ? {} : { fileName: baseOf(path) }),
      },
    };
  });
  return { files: planned, left };
}

/** Whether a file can be handed out as it is stored. */
export function isUntouched(renaming: Renaming): boolean {
  return renaming.products.length === 0 && renaming.locators.length === 0 && renaming.fileName === undefined;
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

/** Folders as in the store, from the deepest place that all have in common; names made unique where they meet. */
function layOut(files: readonly FetchFile[]): Map<string, string> {
  const places = files.map((file) => file.place.split('/').filter((part) => part !== ''));
  let common = places[0]?.length ?? 0;
  for (const place of places) {
    let same = 0;
    while (same < common && same < place.length && place[same] === places[0]?.[same]) same++;
    common = same;
  }
  const takenIn = new Map<string, Set<string>>();
  const paths = new Map<string, string>();
  files.forEach((file, index) => {
    const folder = (places[index] ?? []).slice(common).join('/');
    const taken = takenIn.get(folder.toLowerCase()) ?? new Set<string>();
    const name = uniqueFileName(file.fileName, taken);
    taken.add(name.toLowerCase());
    takenIn.set(folder.toLowerCase(), taken);
    paths.set(file.versionId, folder === '' ? name : `${folder}/${name}`);
  });
  return paths;
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
