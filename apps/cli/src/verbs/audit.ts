import { writeFile } from 'node:fs/promises';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const audit: Verb = {
  usage: 'audit [--item N] [--person LOGIN] [--kind K] [--since DAY] [--until DAY] [--csv FILE]',
  about: 'What was done, by whom and when, newest first (for administrators)',
  async run(args, { connect }): Promise<Answer> {
    const options = ['item', 'person', 'kind', 'since', 'until', 'csv'] as const;
    const parsed = parseVerb(
      args,
      Object.fromEntries(options.map((name) => [name, { type: 'string' as const }])),
      { min: 0, max: 0 },
      audit.usage,
    );
    const { csv: file, ...query } = Object.fromEntries(options.map((name) => [name, parsed.text(name)]));
    const client = await connect();
    if (file !== undefined) {
      await writeFile(file, await client.download('/api/audit.csv', query));
      return { json: { file }, lines: [`Written to ${file}.`] };
    }
    const answer = await client.get('/api/audit', { ...query, limit: 1000 });
    return {
      json: answer,
      lines: table(answer.rows.map(({ at, kind, says }) => [at.slice(0, 16).replace('T', ' '), kind, says])),
    };
  },
};
