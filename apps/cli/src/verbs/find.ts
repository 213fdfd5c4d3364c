import { writeFile } from 'node:fs/promises';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const find: Verb = {
  usage: 'find QUERY [--limit N] [--sort COLUMN] [--table FILE.csv|FILE.xlsx]',
  about: 'Find items in the language of the find box (docs/find.md)',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { limit: { type: 'string' }, sort: { type: 'string' }, table: { type: 'string' } },
      { min: 0, max: 100 },
      find.usage,
    );
    const client = await connect();
    const words = parsed.positionals.join(' ');
    const file = parsed.text('table');
    if (file !== undefined) {
      const format = /\.xlsx$/i.test(file) ? 'xlsx' : 'csv';
      await writeFile(
        fromHere(file),
        await client.download('/api/find/table', { words, format, sort: parsed.text('sort') }),
      );
      return { json: { file }, lines: [`Written to ${file}.`] };
    }
    const answer = await client.get('/api/items', {
      words,
      limit: parsed.text('limit'),
      sort: parsed.text('sort'),
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
        ...answer.near.map(({ number, name }) => `Perhaps ${number}, ${name}?`),
        answer.total > rows.length
          ? `${rows.length} of ${answer.total} shown; more with --limit.`
          : `${answer.total} found.`,
      ],
    };
  },
};
