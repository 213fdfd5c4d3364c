/**
 * The list of parts on a drawing (ISO 7573): which find number stands for which item. It is read from tables, and from lettering
 * that stands in rows under or over a heading, whoever drew it.
 */
import { fieldOfHeading, type DrawnPart, type ListField } from '@stem-trace/core';
import { plainText } from './read.js';
import { readTags, type DxfTag } from './tags.js';

/** A drawing with more lettering than this is no sheet with a list. */
const MOST_TEXTS = 20_000;
const MOST_FIND = 20;
const MOST_NUMBER = 120;

interface Lettering {
  readonly x: number;
  readonly y: number;
  readonly height: number;
  readonly text: string;
}

/** @returns rows of the list in the order of their find numbers on the sheet; none where there is no list. `O(n log n)` in lettering */
export function readPartsList(bytes: Uint8Array): DrawnPart[] {
  const letterings: Lettering[] = [];
  const tables: string[][][] = [];
  let section = '';
  for (const { type, tags } of entities(bytes)) {
    if (type === 'SECTION') section = tags.find(({ code }) => code === 2)?.value.trim() ?? '';
    if (section !== 'ENTITIES') continue;
    if (type === 'ACAD_TABLE') tables.push(cellsOf(tags));
    else if (TEXTS.has(type) && letterings.length < MOST_TEXTS) letterings.push(...lettering(tags));
  }
  for (const table of [...tables, ...tablesIn(letterings)]) {
    const parts = partsIn(table);
    if (parts.length > 0) return parts;
  }
  return [];
}

const TEXTS: ReadonlySet<string> = new Set(['TEXT', 'MTEXT', 'ATTRIB']);

function* entities(
  bytes: Uint8Array,
): Generator<{ readonly type: string; readonly tags: readonly DxfTag[] }> {
  let type: string | undefined;
  let tags: DxfTag[] = [];
  for (const tag of readTags(bytes)) {
    if (tag.code !== 0) tags.push(tag);
    else {
      if (type !== undefined) yield { type, tags };
      type = tag.value.trim();
      tags = [];
    }
  }
  if (type !== undefined) yield { type, tags };
}

function numberOf(tags: readonly DxfTag[], code: number): number {
  return Number(tags.find((tag) => tag.code === code)?.value);
}

/** Where it stands on the sheet: by its point of insertion (DXF reference, TEXT and MTEXT, groups 10, 20 and 40). */
function lettering(tags: readonly DxfTag[]): Lettering[] {
  const text = plainText(
    tags.flatMap(({ code, value }) => (code === 3 || code === 1 ? [value] : [])).join(''),
  );
  const [x, y, height] = [numberOf(tags, 10), numberOf(tags, 20), numberOf(tags, 40)];
  if (text === '' || ![x, y, height].every(Number.isFinite) || height <= 0) return [];
  return [{ x, y, height, text }];
}

/** Cells of a table, row by row (DXF reference, ACAD_TABLE: 91 rows, 92 columns, each cell from a group 171 on). */
function cellsOf(tags: readonly DxfTag[]): string[][] {
  const columns = numberOf(tags, 92);
  if (!Number.isInteger(columns) || columns < 2 || columns > 1000) return [];
  const cells: string[] = [];
  for (const { code, value } of tags) {
    if (code === 171) cells.push('');
    else if (cells.length > 0 && (code === 1 || code === 2 || code === 302 || code === 303))
      cells[cells.length - 1] += value;
  }
  const rows: string[][] = [];
  for (let at = 0; at < cells.length; at += columns)
    rows.push(cells.slice(at, at + columns).map((cell) => plainText(cell)));
  return rows;
}

/** Lettering as tables: under each line of lettering that heads find numbers and items, with all that stands in its columns. */
function* tablesIn(letterings: readonly Lettering[]): Generator<string[][]> {
  const lines = linesOf(letterings);
  for (const [at, line] of lines.entries()) {
    const fields = line.map(({ text }) => fieldOfHeading(text));
    if (!fields.includes('find') || !fields.includes('number')) continue;
    const edges = line.map(({ x }) => x);
    const width = (edges.at(-1) ?? 0) - (edges[0] ?? 0);
    const height = line[0]?.height ?? 1;
    const rows = lines.flatMap((other, row) => {
      if (row === at) return [];
      const cells = edges.map(() => '');
      for (const { x, text } of other) {
        const column = columnOf(edges, x, height);
        // What stands beside the list is none of it; the last column is as wide as the others together at most.
        if (column >= 0 && x <= (edges.at(-1) ?? 0) + width)
          cells[column] = `${cells[column]} ${text}`.trim();
      }
      return [cells];
    });
    yield [line.map(({ text }) => text), ...rows];
  }
}

/** Lettering on one height, from left to right. */
function linesOf(letterings: readonly Lettering[]): Lettering[][] {
  const sorted = [...letterings].sort((a, b) => b.y - a.y || a.x - b.x);
  const lines: Lettering[][] = [];
  for (const each of sorted) {
    const line = lines.at(-1);
    const [first] = line ?? [];
    if (line && first && Math.abs(first.y - each.y) <= 0.6 * Math.min(first.height, each.height))
      line.push(each);
    else lines.push([each]);
  }
  return lines.map((line) => line.sort((a, b) => a.x - b.x));
}

/** The last column that begins at or before a place; what is set to the right in its column begins after it too. */
function columnOf(edges: readonly number[], x: number, height: number): number {
  return edges.findLastIndex((edge) => edge <= x + height);
}

function partsIn(rows: readonly (readonly string[])[]): DrawnPart[] {
  for (const [at, row] of rows.entries()) {
    const fields: (ListField | undefined)[] = row.map((text) => fieldOfHeading(text));
    const [find, number] = [fields.indexOf('find'), fields.indexOf('number')];
    if (find < 0 || number < 0) continue;
    return rows
      .filter((_, other) => other !== at)
      .map((cells) => ({ find: cells[find] ?? '', number: cells[number] ?? '' }))
      .filter((part) => isPart(part));
  }
  return [];
}

/** Lettering elsewhere on the sheet that happens to stand in these columns is no find number. */
function isPart({ find, number }: DrawnPart): boolean {
  return (
    /^[A-Za-z]?\d{1,6}[A-Za-z]?$/.test(find) &&
    find.length <= MOST_FIND &&
    number !== '' &&
    number.length <= MOST_NUMBER
  );
}
