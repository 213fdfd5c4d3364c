import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MANIFEST_NAME, type FetchManifest } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { carryOut, filesIn, upload } from './intake.js';
import type { Answer, Verb } from './verb.js';

export const checkIn: Verb = {
  usage: 'checkin DIR [--comment C] [--keep] [--replace-newer]',
  about: 'Put a changed working copy back',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { comment: { type: 'string' }, keep: { type: 'boolean' }, 'replace-newer': { type: 'boolean' } },
      { min: 1, max: 1 },
      checkIn.usage,
    );
    const folder = fromHere(parsed.positionals[0] ?? '');
    const manifest = await readManifest(folder);
    const present = (await filesIn(folder)).filter((path) => path !== MANIFEST_NAME);
    const changed = await changedFiles(folder, present, manifest);
    const client = await connect();
    const sheet = await client.send('POST', '/api/intakes', { place: '/', manifest });
    await upload(client, sheet.id, folder, changed);
    let review = await client.get(`/api/intakes/${sheet.id}`);
    const newer = review.rows.filter((row) => row.canOverwrite && !row.takesOver).map((row) => row.key);
    if (parsed.flag('replace-newer') && newer.length > 0) {
      review = await client.send('PATCH', `/api/intakes/${sheet.id}`, {
        corrections: {},
        overwrite: newer,
      });
    }
    const done =
      review.expected.versions === 0
        ? review
        : await carryOut(client, sheet.id, {
            comment: parsed.text('comment') ?? '',
            letGo: !parsed.flag('keep'),
          });
    const { versions, items, links, gaps, problems, refused } = done.result ?? review.expected;
    const unchanged = present.length - changed.length;
    const missing = manifest.files.map(({ path }) => path).filter((path) => !present.includes(path));
    return {
      json: { versions, items, links, unchanged, refused, missing, gaps, problems },
      lines: [
        `${versions} new versions, ${items} new items, ${unchanged} files unchanged.`,
        ...refused.map(({ file, number, reason }) => `refused  ${file} (${number}): ${reason}`),
        ...missing.map((path) => `missing  ${path}: nothing was done to it`),
        ...problems.map(
          ({ file, line, reason }) => `problem  ${file}${line > 0 ? `:${line}` : ''}: ${reason}`,
        ),
      ],
    };
  },
};

async function readManifest(folder: string): Promise<FetchManifest> {
  const text = await readFile(join(folder, MANIFEST_NAME), 'utf8').catch(() => {
    throw new CliError(
      `${folder} is not a working copy: it has no ${MANIFEST_NAME}. Fetch one, or bring files in with 'intake'.`,
    );
  });
  try {
    return JSON.parse(text) as FetchManifest;
  } catch {
    throw new CliError(`${join(folder, MANIFEST_NAME)} is not readable. Fetch the working copy again.`);
  }
}

/** Paths whose content is not what was fetched, and those that are new. */
async function changedFiles(
  folder: string,
  paths: readonly string[],
  manifest: FetchManifest,
): Promise<string[]> {
  const fetched = new Map(manifest.files.map(({ path, sha256 }) => [path, sha256]));
  const changed: string[] = [];
  for (const path of paths) {
    const sha256 = createHash('sha256')
      .update(await readFile(join(folder, path)))
      .digest('hex');
    if (fetched.get(path) !== sha256) changed.push(path);
  }
  return changed;
}
