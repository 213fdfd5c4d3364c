/** Issued files, and the structures that releases froze. */
import { createHash } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { portableName } from '@stem-trace/core';
import { parseVerb } from '../arguments.js';
import { CliError, type Client } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const issued: Verb = {
  usage: 'issued NUMBER[@VERSION] [--out FOLDER]\n       stem issued --of FILE',
  about: 'Files that were issued when something was released, listed or saved; or what a file was issued of',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const options = { out: { type: 'string' }, of: { type: 'string' } } as const;
    const parsed = parseVerb(args, options, { min: 0, max: 1 }, issued.usage);
    const file = parsed.text('of');
    if (file !== undefined) return whatOf(await connect(), fromHere(file));
    if (parsed.positionals.length === 0) throw new CliError(`Which item? Usage: stem ${issued.usage}`);
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

async function whatOf(client: Client, path: string): Promise<Answer> {
  const sha256 = createHash('sha256')
    .update(await readFile(path))
    .digest('hex');
  const rows = await client.get('/api/issued/from', { sha256 });
  return {
    json: { rows },
    lines:
      rows.length === 0
        ? ['It was not issued here, or was changed since.']
        : table(
            rows.map(({ number, version, state, kind, madeAt, released }) => [
              ...[number, version, state, kind, madeAt.slice(0, 16)],
              released === version ? 'is what is released' : `released is ${released ?? 'nothing'}`,
            ]),
          ),
  };
}

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
