import type { Amount } from './amount.js';

/**
 * What one version says of an item that it refers to. There is one shape for each layer, and all are cut from this one: a plan of
 * an intake (`PlannedLink`), a row of the store, a graph of ids (`LinkEdge`), dense numbers (`IndexLink`), a net (`NetLink`).
 */

/**
 * Placement of an occurrence in its parent: a 3×4 matrix, row by row, `x y z t` per row.
 * Rotation without unit, translation in millimetres.
 */
export type Placement = readonly number[];

export const IDENTITY_PLACEMENT: Placement = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];

/**
 * What a link means. `component`: an assembly is built from it. `depicts`: a drawing shows it. `describes`: a document
 * is about it. `draws on`: a file needs it to be complete, as a sheet frame or a picture.
 */
export type Relation = 'component' | 'depicts' | 'describes' | 'draws on';

/**
 * What an item is made of or cannot do without: what is traced, fetched, compared and derived with it. What shows or
 * describes it lies beside.
 */
export const STRUCTURE_RELATIONS: readonly Relation[] = ['component', 'draws on'];

/** One place of the target within its parent. */
export interface Occurrence {
  readonly name: string;
  readonly placement: Placement;
  /** Reference designator, `R12`; absent where there is none. */
  readonly designator?: string;
}

/** What a link says, whatever its ends are called in a layer. */
export interface LinkFacts {
  readonly relation: Relation;
  readonly quantity: number;
  /** Whether the target lives in the parent's file: then no lens can choose another version of it. */
  readonly carried: boolean;
  /** Names of the configurations that it belongs to, sorted; absent or empty where that is all of them. */
  readonly configurations?: readonly string[];
  readonly occurrences: readonly Occurrence[];
  /** Find number in the BOM of the user; absent or empty where it has none. */
  readonly find?: string;
  /** How much of it, where that is not the number of its occurrences in pieces. */
  readonly amount?: Amount;
}
