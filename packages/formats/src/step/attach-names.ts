/** What the files that a STEP file names belong to: products that they define, or nothing but the file itself. */
import { addTo } from '@stem-trace/core';
import { isDesignFile, pathKey } from './file-names.js';
import { textOf, type StepFile } from './index-file.js';
import { readNamedFiles, type NamedFile } from './locators.js';
import type { Shapes } from './read.js';

export interface AttachedNames {
  /** The file that defines a product, with every string that names it, by PRODUCT. */
  readonly externals: ReadonlyMap<number, NamedFile>;
  /** Files that define no product, with the product that they are attached to. */
  readonly others: readonly { readonly file: NamedFile; readonly of: number | undefined }[];
  /** Mentions of the file itself. */
  readonly own: readonly NamedFile[];
  /** Products that are said to be defined by this very file, where it has another of the same id: they are that one. */
  readonly aliases: ReadonlyMap<number, number>;
}

export function attachNames(
  file: StepFile,
  {
    refs,
    fileName,
    productOf,
    shapes,
  }: {
    refs: readonly number[];
    fileName: string;
    productOf: ReadonlyMap<number, number>;
    shapes: Shapes;
  },
): AttachedNames {
  const isProduct = new Set(refs);
  // Only asked where a string elsewhere looks like the name of a file.
  let own: Set<string> | undefined;
  const isOwnName = (text: string): boolean => {
    own ??= new Set(
      file
        .idsOf('PRODUCT')
        .flatMap((ref) =>
          (file.record(ref, 'PRODUCT')?.values.slice(0, 2) ?? []).map((value) => trimmed(value)),
        ),
    );
    return own.has(text.trim());
  };
  const externals = new Map<number, NamedFile>();
  const others = new Map<string, { file: NamedFile; of: number | undefined }>();
  const itself: NamedFile[] = [];
  const aliases = new Map<number, number>();
  const ownKey = pathKey(fileName);
  const idOf = (ref: number): string => trimmed(file.record(ref, 'PRODUCT')?.values[0]);
  for (const named of readNamedFiles(file, isOwnName)) {
    const products = new Set(
      named.definitions.flatMap(
        (definition) =>
          productOf.get(definition) ??
          productOf.get(shapes.subjectOf.get(definition) ?? -1) ??
          shapes.productOfRepresentation.get(definition) ??
          (isProduct.has(definition) ? definition : []),
      ),
    );
    const parts = [...products].filter((product) => isProduct.has(product));
    if (fileName !== '' && pathKey(named.locator) === ownKey) {
      itself.push(named);
      for (const part of parts) {
        const same = refs.find((ref) => ref !== part && !aliases.has(ref) && idOf(ref) === idOf(part));
        if (same !== undefined && idOf(part) !== '') aliases.set(part, same);
      }
      continue;
    }
    const isDefinition = named.defines || isDesignFile(named.locator);
    let isTaken = false;
    for (const product of isDefinition ? parts : []) {
      const before = externals.get(product);
      if (before && pathKey(before.locator) !== pathKey(named.locator)) continue;
      externals.set(product, before ? merged(before, named) : named);
      isTaken = true;
    }
    if (isTaken) continue;
    const key = pathKey(named.locator);
    const known = others.get(key);
    if (known) known.file = merged(known.file, named);
    else others.set(key, { file: named, of: parts[0] });
  }
  return { externals, others: withoutDefined([...others.values()], externals), own: itself, aliases };
}

/** A name without a product of its own that means a file which defines one is a further mention of that. */
function withoutDefined(
  others: readonly { file: NamedFile; of: number | undefined }[],
  externals: Map<number, NamedFile>,
): AttachedNames['others'] {
  if (others.length === 0) return others;
  const byPath = new Map<string, number[]>();
  for (const [product, { locator }] of externals) addTo(byPath, pathKey(locator), product);
  return others.filter(({ file: other }) => {
    const [product] = byPath.get(pathKey(other.locator)) ?? [];
    const external = product === undefined ? undefined : externals.get(product);
    if (product === undefined || !external) return true;
    externals.set(product, merged(external, other));
    return false;
  });
}

function merged(one: NamedFile, two: NamedFile): NamedFile {
  return {
    ...one,
    texts: [...new Map([...one.texts, ...two.texts].map((text) => [text.start, text])).values()],
    definitions: [...one.definitions, ...two.definitions],
  };
}

function trimmed(value: Parameters<typeof textOf>[0]): string {
  return textOf(value)?.trim() ?? '';
}
