/** A bill: a manufacturing BOM that is taken from engineering and goes on living beside it. */
import type { Amount } from '../model/amount.js';
import type { ItemKind } from '../model/reading.js';

/** `engineering`: taken from there. `item`: an item of the store that somebody added. `text`: a row that names no item. */
export const BUILD_ROW_KINDS = ['engineering', 'item', 'text'] as const;
export type BuildRowKind = (typeof BUILD_ROW_KINDS)[number];

/** A row of a bill. Rows stand in depth-first order; what lies in a row follows it, one level further in. */
export interface BuildRow {
  /** The same in every version of the bill. */
  readonly id: string;
  /** 1 and up. */
  readonly level: number;
  readonly kind: BuildRowKind;
  /** Of the store; absent for a text, and for what engineering names and the store does not have. */
  readonly itemId?: string;
  readonly number: string;
  readonly name: string;
  /** That engineering uses; empty for what was added. */
  readonly version: string;
  readonly amount: Amount;
  readonly find: string;
  /** As a list with ranges: `R1–R4, R7`. */
  readonly designators: string;
  /** Key of the engineering row that it is from. Several rows may be from one: it was divided. */
  readonly from?: string;
  /** A level that nobody stocks: what lies in it is taken to where it is used. */
  readonly isPhantom: boolean;
  /** Comes in one piece, so that what lies in it is not listed. */
  readonly isWhole: boolean;
  /** By column. */
  readonly values: Readonly<Record<string, string>>;
}

/** A row of engineering, as it was when the bill was taken from there. */
export interface EngineeringRow {
  /** The same after engineering has moved on, where it stands for the same row. */
  readonly key: string;
  readonly level: number;
  readonly itemId?: string;
  readonly stem?: string;
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly amount: Amount;
  readonly find: string;
  readonly designators: string;
  readonly kind?: ItemKind;
}

/** `planned effectivity`, `actual effectivity`: from when until when a row counts, as `parseSpans` reads it. */
export const COLUMN_TYPES = [
  'text',
  'number',
  'choice',
  'person',
  'day',
  'link',
  'planned effectivity',
  'actual effectivity',
] as const;
export type ColumnType = (typeof COLUMN_TYPES)[number];

export function isEffectivity(type: ColumnType): boolean {
  return type === 'planned effectivity' || type === 'actual effectivity';
}

export interface BuildColumn {
  readonly id: string;
  readonly name: string;
  readonly type: ColumnType;
  /** Of a number. */
  readonly unit: string;
  /** Of a choice. */
  readonly choices: readonly string[];
  /** Whether every row that counts must have a value before the bill is released. */
  readonly isRequired: boolean;
}

/** What a bill is for, and which version of it was taken. */
export interface EngineeringBase {
  readonly itemId: string;
  readonly number: string;
  readonly versionId: string;
  readonly version: string;
  readonly lens: string;
}

/** Why a difference from engineering is meant, and which difference that was. */
export interface MeantDifference {
  readonly difference: string;
  readonly reason: string;
}

/** What one version of a bill says. */
export interface BuildBill {
  readonly engineering: EngineeringBase;
  readonly base: readonly EngineeringRow[];
  readonly columns: readonly BuildColumn[];
  readonly rows: readonly BuildRow[];
  /** By the key of an item, see `itemKeyOf`. */
  readonly reasons: Readonly<Record<string, MeantDifference>>;
  /** Numbers of the templates that a release is made from; an empty one is the template that ships. */
  readonly outputs: readonly string[];
}

/** What a bill has before anybody says which columns it needs. */
export const FIRST_BUILD_COLUMNS: readonly BuildColumn[] = (
  [
    ['operation', 'Operation'],
    ['plant', 'Plant'],
    ['note', 'Note'],
    ['supplier-number', 'Supplier part number'],
  ] as const
).map(([id, name]) => ({ id, name, type: 'text', unit: '', choices: [], isRequired: false }));

/** Where what lies in a row ends: the place behind its last row. `O(rows)` at most */
export function endOf(rows: readonly { readonly level: number }[], at: number): number {
  const level = rows[at]?.level ?? 0;
  let end = at + 1;
  while (end < rows.length && (rows[end]?.level ?? 0) > level) end++;
  return end;
}

/** For each row the place of the row that it lies in, -1 for the first level. `O(rows)` */
export function parentsOf(rows: readonly { readonly level: number }[]): number[] {
  const open: number[] = [];
  return rows.map(({ level }, at) => {
    open.length = level - 1;
    const parent = open[level - 2] ?? -1;
    open[level - 1] = at;
    return parent;
  });
}
