/** Issued files, and the structures that releases froze. */
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { portableName } from '@stem-trace/core';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const issued: Verb = {
  usage: 'issued NUMBER[@VERSION] [--out FOLDER]',
  about: 'Files that were issued when something was released, listed or saved',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(args, { out: { type: 'string' } }, { min: 1, max: 1 }, issued.usage);
    const item = parsed.positionals[0] ?? '';
    const client = await connect();
    const rows = await client.get('/api/issued', { item });
    const folder = parsed.text('out');
    const saved: string[] = [];
    if (folder !== undefined) {
      await mkdir(fromHere(folder), { recursive: true });
      for (const { id, name, state, mayReceive } of rows) {
        if (state !== 'made' || !mayReceive) continue;
        // Whatever the server says: nothing leaves the folder.
        const path = join(folder, portableName(name));
        await writeFile(fromHere(path), await client.download('/api/issued/file', { item, file: id }));
        saved.push(path);
      }
    }
    return {
      json: { rows, saved },
      lines: [
        ...table(
          rows.map(({ version, kind, state, name, size, madeAt, problem, remarks }) => [
            ...[version, kind, state, name || '–', state === 'made' ? `${Math.ceil(size / 1000)} kB` : ''],
            ...[madeAt?.slice(0, 16) ?? '', problem ?? remarks.join('; ')],
          ]),
        ),
        ...saved.map((path) => `saved  ${path}`),
      ],
    };
  },
};

export const baselines: Verb = {
  usage: 'baselines NUMBER',
  about: 'What releases of an item froze, and of what holds it; look at one with --lens "baseline ID"',
  async run(args, { connect }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, baselines.usage);
    const rows = await (await connect()).get('/api/baselines', { item: positionals[0] ?? '' });
    return {
      json: { rows },
      lines: table(
        rows.map(({ id, number, version, at, items, digest }) => [
          ...[`baseline ${id}`, number, version, at.slice(0, 16), `${items} items`, digest.slice(0, 12)],
        ]),
      ),
    };
  },
};
