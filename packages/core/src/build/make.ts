/** Taking a bill from engineering, and reading a bill as a BOM. */
import { billRows } from '../bom/bill.js';
import { sayDesignators, parseDesignators } from '../bom/designators.js';
import { waysOf, type BomLine } from '../bom/line.js';
import {
  FIRST_BUILD_COLUMNS,
  type BuildBill,
  type BuildRow,
  type EngineeringBase,
  type EngineeringRow,
} from './model.js';

/** A structure as engineering rows; drawings and documents are no parts of anything. `O(lines)` */
export function engineeringRows(root: BomLine): EngineeringRow[] {
  const ways = waysOf(root);
  return billRows(root).flatMap(({ line, level }): EngineeringRow[] => {
    if (line.kind === 'drawing' || line.kind === 'document') return [];
    const { itemId, stem, number, name, version, amount, find, kind } = line;
    return [
      {
        ...{ key: ways.get(line) ?? '', level, number, name, version, amount, find },
        designators: sayDesignators(line.designators),
        ...(itemId === undefined ? {} : { itemId }),
        ...(stem === undefined ? {} : { stem }),
        ...(kind === undefined ? {} : { kind }),
      },
    ];
  });
}

/** A key that says nothing of what the row is: keys are shown to whoever may see the bill. */
export function keyFor({ versionId }: EngineeringBase, at: number): string {
  return `${versionId}-${at + 1}`;
}

/** Engineering rows under keys of their own. */
export function withKeys(rows: readonly EngineeringRow[], engineering: EngineeringBase): EngineeringRow[] {
  return rows.map((row, at) => ({ ...row, key: keyFor(engineering, at) }));
}

/** A row of a bill that says what engineering says. */
export function rowFrom(
  row: EngineeringRow,
  { level, amount }: Pick<BuildRow, 'level' | 'amount'> = row,
): BuildRow {
  const { key, itemId, number, name, version, find, designators } = row;
  // Ten thousand are made at a time; taking objects apart and together again is what costs.
  const made: Mutable<BuildRow> = {
    id: key,
    level,
    kind: 'engineering',
    number,
    name,
    version,
    amount,
    find,
    designators,
    from: key,
    isPhantom: false,
    isWhole: false,
    values: {},
  };
  if (itemId !== undefined) made.itemId = itemId;
  return made;
}

export function newBill(engineering: EngineeringBase, base: readonly EngineeringRow[]): BuildBill {
  return {
    ...{ engineering, base, columns: FIRST_BUILD_COLUMNS },
    ...{ rows: base.map((row) => rowFrom(row)), reasons: {}, outputs: [''] },
  };
}

/** While it is made. */
type Mutable<T> = { -readonly [K in keyof T]: T[K] };

type Plain = Omit<EngineeringRow, 'key'> & { readonly values?: Readonly<Record<string, string>> };

/** Rows in depth-first order as a tree, with a root that says nothing. `O(rows)` */
export function treeOf<R extends Plain>(rows: readonly R[], root: Partial<BomLine> = {}): BomLine {
  const top: BomLine[] = [];
  const open: BomLine[][] = [top];
  for (const row of rows) {
    const children: BomLine[] = [];
    open.length = row.level;
    open[row.level - 1]?.push(lineOf(row, children));
    open.push(children);
  }
  return { ...EMPTY, ...root, children: top };
}

const EMPTY: BomLine = {
  ...{ number: '', name: '', version: '', originVersions: [], find: '', designators: [] },
  ...{ configurations: [], placements: [], values: {}, children: [] },
  amount: { value: '1', unit: '', basis: 'each' },
};

function lineOf(row: Plain, children: readonly BomLine[]): BomLine {
  const { itemId, stem, number, name, version, amount, find, kind, values = EMPTY.values } = row;
  const { originVersions, configurations, placements } = EMPTY;
  const designators = designatorsIn(row.designators);
  const line: Mutable<BomLine> = {
    number,
    name,
    version,
    originVersions,
    amount,
    find,
    designators,
    configurations,
    placements,
    values,
    children,
  };
  if (itemId !== undefined) line.itemId = itemId;
  if (stem !== undefined) line.stem = stem;
  if (kind !== undefined) line.kind = kind;
  return line;
}

function designatorsIn(text: string): readonly string[] {
  const parsed = text === '' ? undefined : parseDesignators(text);
  return parsed?.kind === 'designators' ? parsed.designators : [];
}

/** A bill as the BOM that it says, for comparing and for files. Columns go by their names. */
export function billTree(
  { engineering, rows, columns }: Pick<BuildBill, 'engineering' | 'rows' | 'columns'>,
  root: Partial<BomLine> = {},
): BomLine {
  const nameOf = new Map(columns.map(({ id, name }) => [id, name]));
  return treeOf(
    rows.map((row) => ({
      ...row,
      kind: undefined,
      number: row.number === '' ? row.name : row.number,
      values: Object.fromEntries(
        Object.entries(row.values).flatMap(([id, value]) => {
          const name = nameOf.get(id);
          return name === undefined || value === '' ? [] : [[name, value]];
        }),
      ),
    })),
    { number: engineering.number, ...root },
  );
}
