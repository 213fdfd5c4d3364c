/** From when until when rows of an assembly count. */
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const effective: Verb = {
  usage: 'effective NUMBER[@VERSION] [--row NUMBER|FIND] [--planned SPANS] [--actual SPANS]',
  about:
    'From when until when rows of an assembly count, or say it of one: "from 2026-03-01", "FM-1000 1 to 99"; look at it with --lens "effective 2026-03-01"',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { row: { type: 'string' }, planned: { type: 'string' }, actual: { type: 'string' } },
      { min: 1, max: 1 },
      effective.usage,
    );
    const item = parsed.positionals[0] ?? '';
    const [planned, actual, named = ''] = ['planned', 'actual', 'row'].map((name) => parsed.text(name));
    const client = await connect();
    if (planned !== undefined || actual !== undefined) {
      const { rows } = await client.get('/api/bill', { item, lens: 'newest' });
      const meant = rows.filter(
        ({ level, number, find }) => level === 1 && named !== '' && (number === named || find === named),
      );
      const [row, ...others] = meant;
      if (!row || others.length > 0)
        throw new CliError(
          `${meant.length} rows of ${item} are called “${named}”. Name one with --row, by its number or its find number.`,
        );
      await client.send('PUT', '/api/effectivity', {
        item: `${row.user}@${row.userVersion}`,
        rows: [
          { position: row.position ?? -1, planned: planned ?? row.planned, actual: actual ?? row.actual },
        ],
      });
    }
    const { rows } = await client.get('/api/bill', { item, lens: 'newest' });
    const said = rows.flatMap(({ level, find, number, amount, planned: plan, actual: came }) =>
      level === 1 ? { find, number, amount: amount.said, planned: plan, actual: came } : [],
    );
    return {
      json: { rows: said },
      lines: table(
        said.map((row) => [row.find, row.number, row.amount, row.planned || 'always', row.actual]),
      ),
    };
  },
};
