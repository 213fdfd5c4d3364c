/**
 * What a design file says about itself, whatever its format. The readers in `formats` produce it; intake
 * planning consumes it. Plain values only: it crosses worker boundaries and is stored with the intake sheet.
 */
import type { Placement, Relation } from './link.js';

/** What an item is. No file is a bill: bills are made in the store. */
export type ItemKind = 'assembly' | 'part' | 'drawing' | 'document' | 'bill' | 'request' | 'order';

/** What a file was recognised as, by its contents where they tell. */
export type FileFormat =
  'step' | 'dxf' | 'pdf' | 'workbook' | 'text document' | 'table' | 'text' | 'image' | 'other';

/** Whether the maker of the design makes the thing or buys it; ISO 10303-44 `make_or_buy`. */
export type Source = 'made' | 'bought' | 'unknown';

export type PropertyValue =
  | { readonly name: string; readonly kind: 'text'; readonly text: string }
  | { readonly name: string; readonly kind: 'number'; readonly value: number; readonly unit: string }
  | { readonly name: string; readonly kind: 'choice'; readonly choice: string }
  /** A day, `2026-03-31`. */
  | { readonly name: string; readonly kind: 'date'; readonly date: string }
  | { readonly name: string; readonly kind: 'yes/no'; readonly yes: boolean };

export interface ProductReading {
  /** Where the file defines the product: its instance number in STEP. Stable, since stored bytes never change. */
  readonly ref: number;
  readonly id: string;
  readonly name: string;
  readonly description: string;
  /** The version the design system gave it, a text of its own making. */
  readonly versionText: string;
  readonly kind: ItemKind;
  readonly source: Source;
  readonly properties: readonly PropertyValue[];
  /** The text by which this file names the file that really defines the product; absent where this one does. */
  readonly locator?: string;
  /** Other texts by which this file names the same file: in other capitals, with a folder in a string of its own. */
  readonly alsoSaid?: readonly string[];
  /** The file only names the product's number; which item that is, is for the store to know. */
  readonly byNumber?: true;
}

export interface UseReading {
  /** Index of the parent in `products`. */
  readonly parent: number;
  /** Index of the child in `products`. */
  readonly child: number;
  /** Occurrence name, e.g. `nut_3`. */
  readonly name: string;
  readonly placement: Placement;
  /** Reference designator; absent where the file gives none. */
  readonly designator?: string;
  /** `component` where absent. */
  readonly relation?: Relation;
  /** Names of the configurations that it belongs to; all where absent. */
  readonly configurations?: readonly string[];
}

/** A filled-in field of a drawing's title block. */
export interface TitleBlockField {
  /** Where the file says it: the line of the text. */
  readonly ref: number;
  readonly tag: string;
  readonly text: string;
}

export interface FileReading {
  readonly format: FileFormat;
  readonly schema: string;
  readonly products: readonly ProductReading[];
  /** Index of the product the file is about; the file's other products live in it. */
  readonly root: number;
  readonly uses: readonly UseReading[];
  /** Of a drawing. What the fields mean is for the store to say. */
  readonly titleBlock?: readonly TitleBlockField[];
  /** Running text, for finding; cut at `MAX_TEXT`. */
  readonly text?: string;
  /** Names of files that belong to no product, with the line where the file says them. */
  readonly unattached?: readonly { readonly line: number; readonly text: string }[];
  /** Why the file is kept without having been read, where it is. */
  readonly unread?: string;
}

/** Most characters of running text that are kept of a file for finding. */
export const MAX_TEXT = 200_000;
