/**
 * Rows of SQL as what they are said to be. The database answers with whatever a statement selects; these readers say which columns
 * are expected and look at every value, so that a statement and its type cannot drift apart unseen. `O(cells)`.
 */

/** Whatever runs SQL: the database, a transaction's manager, a connection. */
export interface Asks {
  query(sql: string, parameters?: unknown[]): Promise<unknown>;
}

/** Reads one value. */
export interface Column<T> {
  /** What is expected, for the fault that says it is not there. */
  readonly says: string;
  readonly fits: (value: unknown) => boolean;
  /** Where it is not given as it came. */
  readonly convert?: (value: unknown) => T;
}

export type Columns<T> = { readonly [K in keyof T]-?: Column<T[K]> };

export const text: Column<string> = { says: 'text', fits: (value) => typeof value === 'string' };
/** A number that PostgreSQL gives as one: int4, float8. What may be larger than 2⁵³ is read as `id`. */
export const number: Column<number> = { says: 'a number', fits: (value) => typeof value === 'number' };
/** int8, which comes as text. */
export const id: Column<string> = {
  says: 'an id',
  fits: (value) => typeof value === 'string' && /^-?\d+$/.test(value),
};
export const flag: Column<boolean> = { says: 'a flag', fits: (value) => typeof value === 'boolean' };
export const time: Column<Date> = { says: 'a time', fits: (value) => value instanceof Date };
/** A time as it is sent to whoever asked: ISO 8601, UTC. */
export const timeText: Column<string> = {
  says: 'a time',
  fits: (value) => value instanceof Date,
  convert: (value) => (value as Date).toISOString(),
};
export const bytes: Column<Buffer> = { says: 'bytes', fits: (value) => Buffer.isBuffer(value) };

/** One of the words that a check of the column allows; which, is the schema's to hold. */
export function word<T extends string>(): Column<T> {
  return { says: 'a word', fits: (value) => typeof value === 'string' };
}

/** JSON that this program wrote; its shape is what was written. */
export function json<T>(): Column<T> {
  return { says: 'JSON', fits: (value) => value !== undefined && value !== null };
}

export function orNull<T>({ says, fits, convert }: Column<T>): Column<T | null> {
  return {
    says: `${says} or nothing`,
    fits: (value) => value === null || fits(value),
    ...(convert ? { convert: (value: unknown) => (value === null ? null : convert(value)) } : {}),
  };
}

/** As `orNull`, for whoever leaves out what is not there. */
export function orAbsent<T>({ says, fits }: Column<T>): Column<T | undefined> {
  return {
    says: `${says} or nothing`,
    fits: (value) => value === null || fits(value),
    convert: (value) => (value === null ? undefined : (value as T)),
  };
}

export function listOf<T>({ says, fits }: Column<T>): Column<T[]> {
  return { says: `a list, each ${says}`, fits: (value) => Array.isArray(value) && value.every(fits) };
}

/** @throws Error that names the column where a value is not what is expected, or not there */
export async function readRows<T extends object>(
  database: Asks,
  columns: Columns<T>,
  sql: string,
  parameters?: unknown[],
): Promise<T[]> {
  const answer = await database.query(sql, parameters);
  return checked(rowsOf(answer), columns, sql);
}

/** The one row that a statement always gives. @throws Error where it gives none */
export async function readRow<T extends object>(
  database: Asks,
  columns: Columns<T>,
  sql: string,
  parameters?: unknown[],
): Promise<T> {
  const [row] = await readRows(database, columns, sql, parameters);
  if (row === undefined) throw new Error(`no row came of: ${shortened(sql)}`);
  return row;
}

/** How many rows a statement gives: those found, or those changed where it says RETURNING. */
export async function countRows(database: Asks, sql: string, parameters?: unknown[]): Promise<number> {
  return rowsOf(await database.query(sql, parameters)).length;
}

/** What changes rows with RETURNING comes with their count. */
function rowsOf(answer: unknown): unknown[] {
  if (!Array.isArray(answer)) throw new Error('a statement gave no rows');
  const [first, second] = answer as unknown[];
  return answer.length === 2 && Array.isArray(first) && typeof second === 'number' ? first : answer;
}

function checked<T extends object>(rows: unknown[], columns: Columns<T>, sql: string): T[] {
  const expected = Object.entries(columns) as [string, Column<unknown>][];
  for (const row of rows as Record<string, unknown>[])
    for (const [name, { says, fits, convert }] of expected) {
      if (!fits(row[name]))
        throw new Error(
          `column ${name} is ${kindOf(row[name])}, where ${says} is expected, of: ${shortened(sql)}`,
        );
      if (convert) row[name] = convert(row[name]);
    }
  return rows as T[];
}

function kindOf(value: unknown): string {
  if (value === undefined) return 'not there';
  if (value === null) return 'empty';
  return value instanceof Date ? 'a time' : `of type ${typeof value}`;
}

function shortened(sql: string): string {
  return sql.replace(/\s+/g, ' ').trim().slice(0, 120);
}

/** A column with a time as `timeText` gives it, for JSON that SQL makes. */
export function iso(column: string): string {
  return `to_char(${column} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
}
