/**
 * What a design file says about itself, whatever its format. The readers in `formats` produce it; intake
 * planning consumes it. Plain values only: it crosses worker boundaries and is stored with the intake sheet.
 */

/**
 * Placement of an occurrence in its parent: a 3×4 matrix, row by row, `x y z t` per row.
 * Rotation without unit, translation in millimetres.
 */
export type Placement = readonly number[];

export const IDENTITY_PLACEMENT: Placement = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];

export type ItemKind = 'assembly' | 'part' | 'drawing' | 'document';

/** Whether the maker of the design makes the thing or buys it; ISO 10303-44 `make_or_buy`. */
export type Source = 'made' | 'bought' | 'unknown';

export type PropertyValue =
  | { readonly name: string; readonly kind: 'text'; readonly text: string }
  | { readonly name: string; readonly kind: 'number'; readonly value: number; readonly unit: string };

export interface ProductReading {
  /** Where the file defines the product: its instance number in STEP. Stable, since stored bytes never change. */
  readonly ref: number;
  readonly id: string;
  readonly name: string;
  readonly description: string;
  /** The version the design system gave it, a text of its own making. */
  readonly versionText: string;
  readonly kind: 'assembly' | 'part';
  readonly source: Source;
  readonly properties: readonly PropertyValue[];
  /** The text by which this file names the file that really defines the product; absent where this one does. */
  readonly locator?: string;
}

export interface UseReading {
  /** Index of the parent in `products`. */
  readonly parent: number;
  /** Index of the child in `products`. */
  readonly child: number;
  /** Occurrence name, e.g. `nut_3`. */
  readonly name: string;
  readonly placement: Placement;
}

export interface FileReading {
  readonly format: 'step';
  readonly schema: string;
  readonly products: readonly ProductReading[];
  /** Index of the product the file is about; the file's other products live in it. */
  readonly root: number;
  readonly uses: readonly UseReading[];
}
