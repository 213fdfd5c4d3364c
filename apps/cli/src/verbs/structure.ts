import type { StructureAnswer } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const made: Verb = structureVerb(
  'made',
  'made NUMBER[@VERSION] [--lens recorded|newest|released|DATE] [--all]',
  'What an item is made of',
);

export const used: Verb = structureVerb(
  'used',
  'used NUMBER [--lens recorded|newest|released|DATE] [--all] [--tops]',
  'What uses an item',
);

function structureVerb(verb: 'made' | 'used', usage: string, about: string): Verb {
  return {
    usage,
    about,
    async run(args, { connect }): Promise<Answer> {
      const common = { lens: { type: 'string' }, all: { type: 'boolean' } } as const;
      const options = verb === 'used' ? { ...common, tops: { type: 'boolean' } as const } : common;
      const parsed = parseVerb(args, options, { min: 1, max: 1 }, usage);
      const client = await connect();
      const answer = await wholeAnswer((offset) =>
        client.get(`/api/${verb}`, {
          item: parsed.positionals[0],
          lens: parsed.text('lens'),
          all: parsed.flag('all') || undefined,
          tops: parsed.flag('tops') || undefined,
          limit: PAGE,
          offset,
        }),
      );
      const rows = answer.rows.map(
        ({ level, number, name, kind, version, quantity, total, parent, behind, gap, isInStore }) => ({
          level,
          number,
          name,
          kind,
          version,
          quantity,
          total,
          parent,
          behind,
          gap,
          ...(gap ? { isInStore: isInStore === true } : {}),
        }),
      );
      const besides =
        verb === 'used'
          ? await client.get('/api/used/besides', { item: parsed.positionals[0], lens: parsed.text('lens') })
          : undefined;
      return {
        json: { item: answer.item, lens: answer.lens, rows, ...besides },
        lines: table([
          [`${answer.item.number}`, answer.item.version, '', '', answer.item.name],
          ...rows.map((row) => [
            `${'  '.repeat(parsed.flag('tops') ? 1 : row.level)}${row.number}`,
            row.version ?? (row.isInStore ? 'not under this lens' : 'gap'),
            `×${row.quantity}`,
            `= ${row.total}`,
            `${row.name}${row.behind > 0 ? `  behind by ${row.behind}` : ''}`,
          ]),
          ...(besides?.bills ?? []).map((bill) => [
            `  ${bill.number}`,
            bill.version,
            bill.amount === '' ? 'reference' : `×${bill.amount}`,
            'bill',
            bill.name,
          ]),
          ...(besides?.insteadOf ?? []).map(({ number, name, onlyIn, approvedBy }) => [
            `  ${number}`,
            '',
            'alternate',
            onlyIn === null ? 'anywhere' : `in ${onlyIn}`,
            `${name}${approvedBy === null ? '  not approved' : ''}`,
          ]),
        ]),
      };
    },
  };
}

const PAGE = 10_000;

/** All pages of an answer. */
async function wholeAnswer(page: (offset: number) => Promise<StructureAnswer>): Promise<StructureAnswer> {
  const answer = await page(0);
  const rows = [...answer.rows];
  // What one may not see is counted but does not come.
  while (rows.length >= PAGE && rows.length < answer.total) {
    const { rows: further } = await page(rows.length);
    if (further.length === 0) break;
    rows.push(...further);
  }
  return { ...answer, rows };
}
