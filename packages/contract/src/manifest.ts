import type { HolderView } from './custody.js';
import type { LensText } from './reference.js';

/** The file that makes a folder a working copy: what was fetched, as JSON, beside the design files. */
export const MANIFEST_NAME = 'stem-trace.json';

/** Where issued files lie in a fetched folder. */
export const ISSUED_FOLDER = 'issued files';

/** Whether a file of a working copy is a design file: whatever else was fetched with it stays where it is. */
export function isOfDesign(path: string, { issued = [] }: Pick<FetchManifest, 'issued'>): boolean {
  return !issued.some((each) => each.path === path);
}

/** `stem-trace.json` in a fetched folder. */
export interface FetchManifest {
  readonly format: 'stem-trace working copy';
  /** 1 has no references. */
  readonly formatVersion: 1 | 2;
  readonly item: string;
  readonly version: string;
  readonly lens: LensText;
  /** Whether drawings of everything in the tree came along; absent in older ones. */
  readonly drawings?: boolean;
  /** Path of the item's own file, or of the file that holds it. */
  readonly root: string;
  readonly rewritten: number;
  readonly files: readonly {
    readonly path: string;
    /** Of the bytes in this folder. */
    readonly sha256: string;
    /** Of the bytes in the store. */
    readonly stored: string;
    /** What lives in the file; what it is about first. */
    readonly items: readonly { readonly number: string; readonly version: string }[];
    /**
     * What each locator in the file as it lies in this folder means. The version is null where no file was fetched for it, the
     * number where it may not be known.
     */
    readonly references?: readonly {
      readonly says: string;
      readonly number: string | null;
      readonly version: string | null;
    }[];
  }[];
  /** Issued files that came along; they are no design files, and never come back. */
  readonly issued?: readonly { readonly path: string; readonly sha256: string }[];
  readonly left: readonly { readonly file: string; readonly reason: string }[];
}

/** What a fetch would hand out now, without handing it out: for comparing a working copy with. */
export interface FetchPlanAnswer {
  readonly item: string;
  readonly version: string;
  readonly lens: LensText;
  readonly files: readonly {
    readonly path: string;
    /** What lives in it; what it is about first. */
    readonly items: readonly {
      readonly number: string;
      readonly version: string;
      readonly heldBy: HolderView | null;
    }[];
  }[];
}
