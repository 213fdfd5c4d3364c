/** What is looked at: what the colours of a picture tell, scenes that are kept, what overlaps, tables and flowing text. */
import type { State } from './items.js';
import type { JobView } from './jobs.js';
import type { LensText } from './reference.js';
import type { NearRow } from './structure.js';

/** Ways in which the colours of parts can tell something. */
export const COLOURED_BY = ['file', 'state', 'behind', 'holder', 'class', 'mass', 'age', 'lineage'] as const;
export type ColouredBy = (typeof COLOURED_BY)[number];

/** `copied`: made from an item of the origin. `shared`: used by the origin as well. `own`: neither. */
export type LineageKind = 'copied' | 'shared' | 'own';

/** What colours can tell of a version. */
export interface TraitRow {
  readonly number: string;
  readonly state: State;
  /** Versions of the item that are newer. */
  readonly behind: number;
  /** Empty where nobody holds it. */
  readonly holder: string;
  /** Empty where it has none. */
  readonly class: string;
  /** Of one; null where nobody knows it. */
  readonly massKg: number | null;
  /** When the version was made. */
  readonly changedAt: string;
  readonly lineage: LineageKind;
  /** Number of the item that it was copied from; empty where it was not, or one may not see it. */
  readonly copiedFrom: string;
}

export interface TraitsAnswer {
  readonly rows: readonly TraitRow[];
  /** Of each use of the scene, its place in `rows`; -1 where one may not see it. */
  readonly of: readonly number[];
  /** Number of what the item was derived from; empty where it was not, or one may not see it. */
  readonly origin: string;
}

/**
 * `plain`: what every reader of glTF 2.0 reads. `packed`: compressed (EXT_meshopt_compression), with coarser meshes of the same
 * corners in the scenes after the first, whose extras say how far these lie off (`errorMm`).
 */
export const MESH_FORMS = ['plain', 'packed'] as const;
/** So many can be asked for at once. */
export const MOST_MESHES = 100;
export type MeshForm = (typeof MESH_FORMS)[number];

/** Which pairs are wanted: of all uses of a scene, of some with all others, or of some with some others. */
export interface OverlapsQuestion {
  readonly item: string;
  readonly lens: LensText;
  /** Places of uses in the scene’s `nodes`, with commas between; absent where all are meant. */
  readonly of?: string;
  readonly to?: string;
  /** How many nodes the scene had when they were selected. */
  readonly nodes: number;
  /** Names of classes that are left out, with commas between. */
  readonly without: string;
}

/** How far the pairs are gone through, and what was found once all are. */
export interface OverlapsProgress {
  readonly job: JobView;
  readonly found: OverlapsAnswer | null;
}

/** All that touches or overlaps, the deepest first. */
export interface OverlapsAnswer {
  readonly rows: readonly NearRow[];
  /** More were found than are told. */
  readonly more: number;
  /** Numbers of items whose geometry is not there yet, so that nothing is said of them. */
  readonly unknown: readonly string[];
}

/** `x, y, z`, millimetres, in the frame of the item that is looked at. */
export type ScenePoint = readonly [x: number, y: number, z: number];

export interface SceneCamera {
  readonly from: ScenePoint;
  readonly at: ScenePoint;
  readonly up: ScenePoint;
  readonly isParallel: boolean;
}

export interface SceneSection {
  readonly point: ScenePoint;
  /** What lies on its side is cut away. */
  readonly normal: ScenePoint;
}

/** Something measured, as it was said and where it is drawn. */
export interface SceneMeasure {
  readonly words: string;
  readonly spots: readonly ScenePoint[];
}

/** What a scene shows. Uses are named by the way to them, so that they are found again when the tree has changed. */
export interface SceneLook {
  readonly lens: LensText;
  readonly camera: SceneCamera;
  readonly hidden: readonly string[];
  readonly selected: readonly string[];
  readonly isGlass: boolean;
  readonly sections: readonly SceneSection[];
  readonly colouredBy: ColouredBy;
  readonly spread: { readonly amount: number; readonly levels: number };
  readonly measures: readonly SceneMeasure[];
  readonly note: string;
}

/** A look that was kept under a name. */
export interface KeptSceneRow {
  readonly id: string;
  readonly name: string;
  readonly by: string;
  readonly initials: string;
  readonly isMine: boolean;
  readonly at: string;
  /** `B/3`, of the item when it was kept. */
  readonly version: string;
  readonly note: string;
}

export interface KeptScene extends KeptSceneRow {
  readonly number: string;
  readonly look: SceneLook;
}

export interface KeptScenesAnswer {
  readonly rows: readonly KeptSceneRow[];
}

export interface KeepSceneRequest {
  /** `NUMBER@B/3` */
  readonly item: string;
  readonly name: string;
  readonly look: SceneLook;
}

export interface ChangeSceneRequest {
  readonly id: string;
  readonly name: string;
  readonly look: SceneLook;
}

export interface SceneKept {
  readonly id: string;
}

/** A workbook as tables, or a document as flowing text. */
export type DocumentAnswer =
  | { readonly kind: 'tables'; readonly tables: readonly DocumentTable[] }
  /** HTML without anything that runs, with pictures inside. */
  | { readonly kind: 'text'; readonly html: string; readonly left: readonly string[] };

export interface DocumentTable {
  readonly name: string;
  readonly rows: readonly (readonly string[])[];
  /** Widths of columns in characters, where the file says them. */
  readonly widths: readonly number[];
  /** Rows that the sheet has; more than are told where it is very long. */
  readonly count: number;
}
