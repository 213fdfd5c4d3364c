import type { FindAnswer } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const find: Verb = {
  usage: 'find WORDS [--limit N]',
  about: 'Find items by words in number, name and properties',
  async run(args, connect): Promise<Answer> {
    const parsed = parseVerb(args, { limit: { type: 'string' } }, { min: 0, max: 100 }, find.usage);
    const client = await connect();
    const answer = await client.get<FindAnswer>('/api/items', {
      words: parsed.positionals.join(' '),
      limit: parsed.text('limit'),
    });
    const rows = answer.rows.map(({ number, name, kind, version, state }) => ({
      number,
      name,
      kind,
      version,
      state,
    }));
    return {
      json: { total: answer.total, rows },
      lines: [
        ...table(rows.map((row) => [row.number, row.version, row.state, row.kind, row.name])),
        answer.total > rows.length
          ? `${rows.length} of ${answer.total} shown; more with --limit.`
          : `${answer.total} found.`,
      ],
    };
  },
};
