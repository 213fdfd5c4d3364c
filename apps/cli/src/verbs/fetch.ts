import { mkdir, readdir } from 'node:fs/promises';
import { MANIFEST_NAME, type FetchManifest } from '@stem-trace/contract';
import { unzipSync } from 'fflate';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { changeWorkingCopy } from '../working-copy.js';
import type { Answer, Verb } from './verb.js';

export const fetchVerb: Verb = {
  usage: 'fetch NUMBER[@VERSION] --to DIR [--lens L] [--drawings] [--issued]',
  about: 'Fetch an item with everything below it as files',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      {
        ...({ to: { type: 'string' }, lens: { type: 'string' } } as const),
        ...({ drawings: { type: 'boolean' }, issued: { type: 'boolean' } } as const),
      },
      { min: 1, max: 1 },
      fetchVerb.usage,
    );
    const to = parsed.text('to');
    if (to === undefined) throw new CliError(`Say where to: --to DIR.\nUsage: stem ${fetchVerb.usage}`);
    const folder = fromHere(to);
    await mkdir(folder, { recursive: true });
    const present = await readdir(folder);
    if (present.length > 0)
      throw new CliError(`${folder} is not empty. Nothing was written; choose an empty folder.`);
    const client = await connect();
    const zip = await client.download('/api/fetch', {
      item: parsed.positionals[0],
      lens: parsed.text('lens'),
      drawings: parsed.flag('drawings') || undefined,
      issued: parsed.flag('issued') || undefined,
    });
    const entries = unzipSync(zip);
    const manifestBytes = entries[MANIFEST_NAME];
    if (!manifestBytes)
      throw new CliError('What the server sent has no manifest. Nothing was written; try again.');
    const manifest = JSON.parse(new TextDecoder().decode(manifestBytes)) as FetchManifest;
    const write = new Map(Object.entries(entries).filter(([path]) => path !== MANIFEST_NAME));
    await changeWorkingCopy(folder, manifest, { write, remove: [] });
    const files = manifest.files.length;
    return {
      json: { root: manifest.root, files, rewritten: manifest.rewritten, left: manifest.left },
      lines: [
        `${files} files in ${folder}, ${manifest.rewritten} of them rewritten; begin with ${manifest.root}.`,
        ...manifest.left.map(({ file, reason }) => `left  ${file}: ${reason}`),
      ],
    };
  },
};
