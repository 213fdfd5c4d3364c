/** A row of an intake while it is worked out. */
import { stemOf, type FileIndex } from './locate.js';
import type { IntakeFile, KnownItem, PlannedLink, RowStatus } from './plan-types.js';
import type { FileReading, ProductReading } from '../model/reading.js';
import { applyTitleBlock, type TitleBlockRule } from './title-block.js';

export interface Draft {
  readonly key: string;
  readonly file: IntakeFile;
  readonly reading: FileReading;
  readonly index: number;
  readonly product: ProductReading;
  readonly carrierKey?: string;
  number: string;
  name: string;
  status: RowStatus;
  links: PlannedLink[];
  notes: string[];
  /** The item of the store that it is. */
  known?: KnownItem;
  /** An item of the store that it is only called like, with how the two differ. */
  rival?: { readonly item: KnownItem; readonly differs: string };
}

export function rowKey(path: string, product: ProductReading): string {
  return `${path}#${product.ref}`;
}

/** A reference of a file to itself is no reference: the product is defined right here. */
export function definesItself(file: IntakeFile, product: ProductReading, index: FileIndex): boolean {
  if (product.byNumber) return false;
  if (product.locator === undefined) return true;
  const match = index.findSure(product.locator, file.path);
  return match.kind === 'found' && match.path === file.path;
}

/** A row for every product that a file defines, carriers before what they carry. */
export function draftRows(
  files: readonly IntakeFile[],
  index: FileIndex,
  titleBlock: readonly TitleBlockRule[],
): Draft[] {
  return files.flatMap((file): Draft[] => {
    const reading = file.reading && applyTitleBlock(file.reading, titleBlock);
    const root = reading?.products[reading.root];
    if (!reading || !root) return [];
    const drawnOn = new Set(reading.uses.flatMap((use) => (use.relation === 'draws on' ? [use.child] : [])));
    const own = reading.products.flatMap((product, at) =>
      at === reading.root || (!drawnOn.has(at) && definesItself(file, product, index))
        ? [{ product, at }]
        : [],
    );
    // The root first, so that a carrier always stands before what it carries.
    own.sort((a, b) => Number(b.at === reading.root) - Number(a.at === reading.root) || a.at - b.at);
    return own.map(({ product, at }) => ({
      key: rowKey(file.path, product),
      file,
      reading,
      index: at,
      product,
      ...(at === reading.root ? {} : { carrierKey: rowKey(file.path, root) }),
      number: '',
      name: '',
      status: { kind: 'new' },
      links: [],
      notes: at === reading.root ? notesOf(reading) : [],
    }));
  });
}

function notesOf({ unread, unattached = [] }: FileReading): string[] {
  return [
    ...(unread === undefined ? [] : [`Kept whole: ${unread}.`]),
    ...unattached.map(
      ({ line, text }) =>
        `Line ${line} names '${text}', which belongs to no product; it is kept as a file that this one draws on.`,
    ),
  ];
}

/** What a model calls itself; the file's name where it is silent. */
export function ownId(draft: Draft): string {
  return draft.product.id || draft.product.name || stemOf(draft.file.path);
}
