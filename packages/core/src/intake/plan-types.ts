/** What an intake plan is made from, and what it says. Plain data. */
import { portableName, portablePath } from '../names/portable.js';
import { base, folderOf } from './locate.js';
import type { FileReading, ItemKind, ProductReading } from '../model/reading.js';
import type { LinkFacts } from '../model/link.js';
import type { TitleBlockRule } from './title-block.js';

export interface IntakeFile {
  /** Relative path with `/`. */
  readonly path: string;
  readonly sha256: string;
  readonly reading?: FileReading;
  readonly problem?: { readonly line: number; readonly reason: string };
  /** Whether the content is what was once fetched, so that nothing changed though the stored bytes differ. */
  readonly asFetched?: boolean;
  /** Why a file is passed over, where it is. */
  readonly passedOver?: string;
}

/** What a person changed in the review table, by row key. */
export interface RowCorrection {
  readonly number?: string;
  readonly name?: string;
  readonly leaveOut?: boolean;
  /** Number of the model that a drawing or a document belongs to; empty where it belongs to none. */
  readonly belongsTo?: string;
  /** Number of the item that a reference means, by the reference's locator; empty where it stays a gap. */
  readonly references?: Readonly<Record<string, string>>;
}

/** An item of the store that may be met. */
export interface KnownItem {
  readonly id: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly fileName: string;
  readonly place: string;
  /** Whether the one who brings in may see it; its number is taken in any case. */
  readonly isVisible: boolean;
  /** Number of the model that it belongs to by hand or by name. */
  readonly belongsTo?: string;
  /** State of its newest revision. */
  readonly state: string;
  readonly newest: KnownVersion;
  /** What its file was called in any version. */
  readonly formerFileNames: readonly string[];
  /** The item in whose file its newest version lives, where it has none of its own. */
  readonly carrier?: string;
}

export interface KnownVersion {
  readonly id: string;
  readonly label: string;
  readonly sha256: string;
  /** What its own file calls the product. */
  readonly idInFile: string;
}

/** A reference that a version of an item has recorded. */
export interface KnownLink {
  readonly locator: string;
  readonly target: KnownItem;
  /** The version that was seen then. */
  readonly versionId: string;
}

/** A working copy's manifest, as far as planning needs it. */
export interface WorkingCopy {
  /** By path: what was fetched. */
  readonly files: ReadonlyMap<string, WorkingCopyFile>;
}

export interface WorkingCopyFile {
  readonly sha256: string;
  /** What lives in the file; what it is about first. */
  readonly items: readonly { readonly number: string; readonly version: string }[];
  /**
   * What each locator of the file as it was fetched means; no version where none was fetched, no number where it may not be
   * known: then it means what it meant before.
   */
  readonly references: readonly {
    readonly says: string;
    readonly number: string | null;
    readonly version: string | null;
  }[];
}

export interface IntakeStore {
  byNumber(number: string): KnownItem | undefined;
  /** The item whose file lies at a path of the store, `/place/file.stp`, in exactly this spelling or in another. */
  byPath(path: string, spelling: 'exact' | 'any'): KnownItem | undefined;
  /** References that the newest version of an item has recorded. */
  linksOf(itemId: string): readonly KnownLink[];
  /** Id of an item's version by its label. */
  versionOf(itemId: string, label: string): string | undefined;
  /** The one part or assembly of a place whose file has this name without its ending; case does not count. */
  byStem(place: string, stem: string): KnownItem | undefined;
}

export type RowStatus =
  | { readonly kind: 'new' }
  | {
      readonly kind: 'newVersion';
      readonly of: KnownItem;
      /** Whether it came from elsewhere than the item's own file, so that somebody must have chosen it. */
      readonly takesOver?: boolean;
    }
  | { readonly kind: 'unchanged'; readonly of: KnownItem }
  | { readonly kind: 'leftOut' }
  /** It is changed, but custody does not allow it in; the item stays as it is. */
  | {
      readonly kind: 'refused';
      readonly of: KnownItem;
      readonly reason: string;
      readonly canOverwrite: boolean;
      /** Whether it came from elsewhere than the item's own file; to overrule the refusal is to take the item over. */
      readonly takesOver?: boolean;
    }
  /** The same content as another row; that row stands for both. */
  | { readonly kind: 'sameAs'; readonly key: string }
  | { readonly kind: 'problem'; readonly line: number; readonly reason: string };

export type LinkTarget =
  /** `seen` is the version that the reference meant, where the row does not make one. */
  | { readonly kind: 'row'; readonly key: string; readonly seen?: string }
  | { readonly kind: 'item'; readonly item: KnownItem; readonly seen?: string }
  | { readonly kind: 'gap' };

/** How a reference was resolved, most certain first; from `product id` on it was guessed. */
const RESOLUTIONS = [
  'hand',
  'working copy',
  'version before',
  'path',
  'other capitals',
  'product id',
  'name elsewhere',
  'other ending',
] as const;
export type Resolution = (typeof RESOLUTIONS)[number];

export function isGuess(resolution: Resolution): boolean {
  return RESOLUTIONS.indexOf(resolution) >= RESOLUTIONS.indexOf('product id');
}

/** A link as it would be written: its target is a reading's, and how often it is used is told by its occurrences. */
export interface PlannedLink extends Omit<LinkFacts, 'quantity' | 'configurations'> {
  /** The placeholder, or the product itself where it lives in the same file. */
  readonly product: ProductReading;
  readonly target: LinkTarget;
  readonly by?: Resolution;
  /** Names, sorted; empty where it belongs to every configuration. */
  readonly configurations: readonly string[];
}

export interface IntakeRow {
  /** Path and product instance, `head.stp#40`. */
  readonly key: string;
  readonly path: string;
  readonly product: ProductReading;
  readonly number: string;
  readonly name: string;
  /** Key of the row whose file this product lives in. */
  readonly carrier?: string;
  readonly status: RowStatus;
  readonly links: readonly PlannedLink[];
  /** Sentences for the person who reviews. */
  readonly notes: readonly string[];
}

export interface IntakePlan {
  readonly rows: readonly IntakeRow[];
  readonly problems: readonly { readonly file: string; readonly line: number; readonly reason: string }[];
  readonly gaps: readonly { readonly file: string; readonly locator: string }[];
  readonly passedOver: readonly { readonly file: string; readonly reason: string }[];
}

export interface IntakeOptions {
  readonly files: readonly IntakeFile[];
  readonly store: IntakeStore;
  readonly corrections?: ReadonlyMap<string, RowCorrection>;
  /** Goes before every number that was not corrected by hand. */
  readonly prefix?: string;
  /** Place in the store that the folder becomes. */
  readonly place: string;
  /** Of a working copy that comes back. */
  readonly workingCopy?: WorkingCopy;
  /** Keys of rows that become versions of what is already in the store though they come from elsewhere. */
  readonly overwrite?: ReadonlySet<string>;
  /** What the fields of title blocks mean; `DEFAULT_TITLE_BLOCK` where absent. */
  readonly titleBlock?: readonly TitleBlockRule[];
}

/** Whether a row leads to something in the store after the intake. */
export function comesIn(row: { readonly status: RowStatus }): boolean {
  const { kind } = row.status;
  return kind === 'new' || kind === 'newVersion' || kind === 'unchanged' || kind === 'refused';
}

/** Place of a file: the intake's place with the file's folders below, as the store keeps them. */
export function placeOf(place: string, path: string): string {
  const folder = portablePath(folderOf(path));
  return folder === '' ? place : `${place === '/' ? '' : place}/${folder}`;
}

/** Name of a file as the store keeps it. */
export function storedNameOf(path: string): string {
  return portableName(base(path));
}

/** Path of a file in the store. */
export function storePathOf(place: string, path: string): string {
  const into = placeOf(place, path);
  return `${into === '/' ? '' : into}/${storedNameOf(path)}`;
}
