/**
 * A STEP file that holds several products taken apart into one file for each, and files that refer to one another put
 * together into one. Geometry stays byte for byte but for the numbers of its instances.
 */
import { base, folderOf, pathsOf, type FileReading } from '@stem-trace/core';
import {
  editStepStructure,
  keepOnlyProduct,
  type ExternalProduct,
  type NamedUse,
  type UseTarget,
} from './edit-structure.js';
import { applyEdits, concatenated } from './edits.js';
import { StepError } from './errors.js';
import { readStep } from './read.js';
import { rewriteStep } from './rewrite.js';
import { StatementGraph, type Statement } from './statements.js';

/** A file that one product gets. */
export interface SplitPart {
  /** Of the product in the file that was taken apart. */
  readonly ref: number;
  readonly fileName: string;
  readonly bytes: Uint8Array;
}

/**
 * One file for each product that lives in a file; what it is made of becomes external references. The product that the file is
 * about keeps the file's name.
 *
 * @param fileNameOf what the file of a product is to be called, all of them in one folder
 * @returns nothing where the file holds one product only
 * @throws StepError where the file cannot be read. `O(products × bytes)`
 */
export function splitStep(
  bytes: Uint8Array,
  fileName: string,
  fileNameOf: (product: { readonly ref: number; readonly id: string; readonly name: string }) => string,
): SplitPart[] {
  const reading = readStep(bytes, fileName);
  const own = reading.products.filter(
    ({ locator, byNumber, kind }) =>
      locator === undefined && byNumber !== true && (kind === 'part' || kind === 'assembly'),
  );
  if (own.length < 2) return [];
  const root = reading.products[reading.root]?.ref;
  const names = new Map(
    own.map((product) => [product.ref, product.ref === root ? fileName : fileNameOf(product)]),
  );
  return own.map(({ ref }) => {
    const alone = alonePart(bytes, fileName, { reading, ref, names });
    const name = names.get(ref) ?? fileName;
    return {
      ref,
      fileName: name,
      bytes:
        name === fileName
          ? alone
          : rewriteStep(alone, { products: [], locators: [], fileName: name }, fileName).bytes,
    };
  });
}

function alonePart(
  bytes: Uint8Array,
  fileName: string,
  {
    reading,
    ref,
    names,
  }: { readonly reading: FileReading; readonly ref: number; readonly names: ReadonlyMap<number, string> },
): Uint8Array {
  const externals = new Map<string, ExternalProduct>();
  const uses = usesOf(reading).flatMap(({ use, child }) => {
    const locator = use.parent === ref ? names.get(use.child) : undefined;
    if (locator === undefined) return [];
    externals.set(String(use.child), { id: child.id, name: child.name, locator });
    return [{ use, becomes: { external: String(use.child) } }];
  });
  const apart =
    uses.length === 0
      ? bytes
      : editStepStructure(bytes, fileName, { uses, added: [], externals: [...externals] }).bytes;
  // What nothing but this product used is gone already.
  return keepOnlyProduct(apart, fileName, ref);
}

/** The components of a reading as an edit names them. */
function usesOf(
  reading: FileReading,
): { readonly use: NamedUse; readonly child: FileReading['products'][number] }[] {
  const counts = new Map<string, number>();
  return reading.uses.flatMap(({ parent, child, relation = 'component', configurations = [] }) => {
    const [from, to] = [reading.products[parent], reading.products[child]];
    if (relation !== 'component' || !from || !to) return [];
    const key = JSON.stringify([from.ref, to.ref, [...configurations].sort()]);
    const nth = counts.get(key) ?? 0;
    counts.set(key, nth + 1);
    return [{ use: { parent: from.ref, child: to.ref, configurations, nth }, child: to }];
  });
}

interface JoinedFile {
  readonly path: string;
  readonly reading: FileReading;
  readonly graph: StatementGraph;
  /** Added to its instance numbers. */
  readonly offset: number;
}

/**
 * One file of a tree of files: whatever they refer to among themselves lives in it. What is not among them stays a reference.
 *
 * @param files bytes by path, with `/`
 * @param root path of the file that the others hang on
 * @throws StepError where one of them cannot be read, or names others in a REFERENCE section. `O(bytes)`
 */
export function joinStep(files: ReadonlyMap<string, Uint8Array>, root: string): Uint8Array {
  const joined = collect(files, root);
  const [first] = joined.values();
  if (!first || joined.size === 1) return files.get(root) ?? new Uint8Array();
  const others = [...joined.values()].slice(1);
  const parts = [
    first.graph.bytes.subarray(0, first.graph.endOfData),
    ...others.flatMap(({ graph, offset }) =>
      graph.statements.map((statement) => renumbered(graph, statement, offset)),
    ),
    first.graph.bytes.subarray(first.graph.endOfData),
  ];
  const bytes = concatenated(parts);
  const targets = new Map<number, UseTarget>();
  for (const { path, reading, offset } of joined.values()) {
    for (const { ref, locator } of reading.products) {
      const file = locator === undefined ? undefined : fileOf(locator, path, joined);
      const target = file?.reading.products[file.reading.root];
      if (file && target) targets.set(ref + offset, { ref: target.ref + file.offset });
    }
  }
  const name = base(root);
  const uses = usesOf(readStep(bytes, name)).flatMap(({ use }) => {
    const becomes = targets.get(use.child);
    return becomes ? [{ use, becomes }] : [];
  });
  return editStepStructure(bytes, name, { uses, added: [], externals: [] }).bytes;
}

function collect(files: ReadonlyMap<string, Uint8Array>, root: string): Map<string, JoinedFile> {
  const joined = new Map<string, JoinedFile>();
  let offset = 0;
  const waiting = [root];
  for (let path = waiting.shift(); path !== undefined; path = waiting.shift()) {
    const bytes = files.get(path);
    if (!bytes || joined.has(path)) continue;
    const reading = readStep(bytes, base(path));
    const graph = StatementGraph.of(bytes);
    if (graph.statements.some(({ id, body }) => id < 0 || bytes[body] === 60))
      throw new StepError(
        `${path} names instances of other files in a REFERENCE section, which cannot be joined`,
        0,
      );
    joined.set(path, { path, reading, graph, offset });
    offset += graph.largestNumber;
    for (const { locator } of reading.products) {
      const next =
        locator === undefined
          ? undefined
          : pathsOf(locator, folderOf(path)).paths.find((each) => files.has(each));
      if (next !== undefined && /\.(stp|step|p21)$/i.test(next)) waiting.push(next);
    }
  }
  if (offset > LARGEST)
    throw new StepError('the joined file would need more instance numbers than programs can read', 0);
  return joined;
}

const LARGEST = 2_147_483_647;

function fileOf(
  locator: string,
  path: string,
  joined: ReadonlyMap<string, JoinedFile>,
): JoinedFile | undefined {
  const found = pathsOf(locator, folderOf(path)).paths.find((each) => joined.has(each));
  return found === undefined ? undefined : joined.get(found);
}

/** A statement with all its instance numbers moved up. */
function renumbered(graph: StatementGraph, statement: Statement, offset: number): Uint8Array {
  const { bytes } = graph;
  const decoder = new TextDecoder('latin1');
  const edits = graph.numberPlaces(statement).map(([start, end]) => ({
    start: start - statement.start,
    end: end - statement.start,
    written: `#${Number(decoder.decode(bytes.subarray(start + 1, end))) + offset}`,
  }));
  const length = statement.end - statement.start;
  return applyEdits(bytes.subarray(statement.start, statement.end), [
    ...edits,
    { start: length, end: length, written: '\n' },
  ]);
}
