import { Injectable } from '@nestjs/common';
import { mapTable, numberKey, type ListLine, type ListProblem, type TableMapping } from '@stem-trace/core';
import type { ListReading } from '@stem-trace/formats';
import { DataSource } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import { isAmong, measureOfItem } from '../database/conditions.js';
import { json, number, orNull, readRows, text, timeText, word } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { StoreLine } from './bom-tree.service.js';

export const LIST = 'list:';

/** A list that somebody sent, as it is kept. */
export interface KeptList {
  readonly id: string;
  readonly name: string;
  readonly reading: ListReading;
  readonly mapping: TableMapping;
  readonly at: string;
  readonly author: string;
}

/** A list as rows, before the store is asked what it knows of them. */
export interface ReadLines {
  readonly lines: readonly ListLine[];
  readonly problems: readonly ListProblem[];
  readonly count: number;
}

interface Known {
  readonly key: string;
  readonly itemId: string;
  readonly stem: string;
  readonly number: string;
  readonly name: string;
  readonly kind: NonNullable<StoreLine['kind']>;
  readonly state: NonNullable<StoreLine['state']>;
  /** In kg; null where nobody knows it wholly. */
  readonly massKg: number | null;
  readonly cost: number | null;
}

/** Lists from outside, as lines of a BOM. */
@Injectable()
export class ListTreeService {
  constructor(private readonly database: DataSource) {}

  /** @throws ProblemError NOT_FOUND */
  async find(id: string): Promise<KeptList> {
    const isId = /^[0-9a-f-]{36}$/.test(id);
    const [list] = isId
      ? await readRows<KeptList>(
          this.database,
          {
            id: text,
            name: text,
            reading: json<ListReading>(),
            mapping: json<TableMapping>(),
            at: timeText,
            author: text,
          },
          `SELECT f.id::text, f.name, f.reading, f.mapping, f.brought_at AS at, p.name AS author
           FROM bom_file f JOIN person p ON p.id = f.person_id WHERE f.id = $1`,
          [id],
        )
      : [];
    if (!list)
      throw new ProblemError(
        'NOT_FOUND',
        'This list is not there any more; lists are kept for 30 days. Choose the file again.',
      );
    return list;
  }

  linesOf({ reading, mapping }: Pick<KeptList, 'reading' | 'mapping'>): ReadLines {
    if (reading.kind === 'lines')
      return { lines: reading.lines, problems: [], count: countOf(reading.lines) };
    const sheet = reading.sheets.find(({ name }) => name === mapping.sheet) ?? reading.sheets[0];
    return mapTable(sheet?.rows ?? [], mapping);
  }

  /** What the store knows of the numbers, as far as the asker may see it, beside what the list says. */
  async tree(list: KeptList, rights: Rights): Promise<StoreLine> {
    const { lines } = this.linesOf(list);
    const known = await this.known(numbersOf(lines), rights);
    return {
      ...storeLine({ number: list.name, name: '', version: '', amount: ONE, find: '', designators: [], values: {}, children: [] }, known), // prettier-ignore
      children: lines.map((line) => storeLine(line, known)),
    };
  }

  /** By number key. */
  async known(numbers: readonly string[], rights: Rights): Promise<Map<string, Known>> {
    const rows = await readRows<Known>(
      this.database,
      {
        key: text,
        itemId: text,
        stem: text,
        number: text,
        name: text,
        kind: word<Known['kind']>(),
        state: word<Known['state']>(),
        massKg: orNull(number),
        cost: orNull(number),
      },
      `SELECT i.number_key AS key, i.id::text AS "itemId", coalesce(i.stem_id, i.id)::text AS stem, i.number, i.name, i.kind, i.state,
         (${measureOfItem('mass', '$2')} AND p.unit = 'kg') AS "massKg", (${measureOfItem('cost', '$2')}) AS cost
       FROM item i WHERE ${isAmong('i.number_key', '$1')} AND i.place_id <> ALL($2::bigint[]) AND i.newest_version_id IS NOT NULL`,
      [[...new Set(numbers.map(numberKey))], rights.placesWithout('see')],
    );
    return new Map(rows.map((row) => [row.key, row]));
  }
}

const ONE = { value: '1', unit: '', basis: 'each' } as const;

/** All numbers of a list, in its order. */
export function numbersOf(lines: readonly ListLine[]): string[] {
  return lines.flatMap(({ number, children }) => [number, ...numbersOf(children)]);
}

function countOf(lines: readonly ListLine[]): number {
  return lines.reduce((sum, { children }) => sum + 1 + countOf(children), 0);
}

function storeLine({ children, ...line }: ListLine, known: ReadonlyMap<string, Known>): StoreLine {
  const item = known.get(numberKey(line.number));
  return {
    ...line,
    ...(item
      ? { itemId: item.itemId, stem: item.stem, number: item.number, kind: item.kind, state: item.state }
      : {}),
    ...(typeof item?.massKg === 'number' ? { massKg: item.massKg } : {}),
    ...(typeof item?.cost === 'number' ? { cost: item.cost } : {}),
    name: line.name || (item?.name ?? ''),
    ...{ originVersions: [], configurations: [], placements: [], isGap: false, heldBy: null },
    children: children.map((child) => storeLine(child, known)),
  };
}
