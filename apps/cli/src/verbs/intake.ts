import { readFile, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { MANIFEST_NAME, type CarryOutRequest, type IntakeView } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { CliError, type Client } from '../client.js';
import { filesIn } from '../files.js';
import { OWN_NAMES } from '../working-copy.js';
import type { Answer, Verb } from './verb.js';

const PARALLEL_UPLOADS = 4;
const POLL_MS = 150;

export const intake: Verb = {
  usage: 'intake DIR|ZIP|FILE [--prefix P] [--comment C] [--place PATH]',
  about: 'Bring in a folder, a ZIP of files, or one file',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { prefix: { type: 'string' }, comment: { type: 'string' }, place: { type: 'string' } },
      { min: 1, max: 1 },
      intake.usage,
    );
    const source = fromHere(parsed.positionals[0] ?? '');
    const client = await connect();
    const place = parsed.text('place') ?? (await placeFor(source));
    const isKnown = (await client.get('/api/places')).some(({ path }) => path === place);
    const review = await collect(client, source, { place, prefix: parsed.text('prefix') ?? '' });
    const expected = review.expected;
    const done =
      expected.versions === 0 && expected.files === 0
        ? review
        : await carryOut(client, review.id, { comment: parsed.text('comment') ?? '', letGo: true });
    const { files, items, versions, links, gaps, problems, passedOver, filled, refused } =
      done.result ?? expected;
    return {
      json: { files, items, versions, links, gaps, problems, passedOver, filled, refused },
      lines: [
        `${files} files: ${items} new items, ${versions} new versions, ${links} links.`,
        // A mistyped place is not made in silence.
        ...(isKnown ? [] : [`place    ${place} is new`]),
        ...gaps.map(({ file, locator }) => `gap      ${file}: '${locator}' is missing`),
        ...problems.map(
          ({ file, line, reason }) => `problem  ${file}${line > 0 ? `:${line}` : ''}: ${reason}`,
        ),
        ...refused.map(({ file, number, reason }) => `refused  ${file} (${number}): ${reason}`),
        ...passedOver.map(({ file, reason }) => `passed   ${file}: ${reason}`),
      ],
    };
  },
};

/** Puts a folder or a ZIP onto a sheet of its own. @throws CliError */
async function collect(
  client: Client,
  source: string,
  request: { place: string; prefix: string },
): Promise<IntakeView> {
  if (/\.zip$/i.test(source)) {
    const content = await readFile(source).catch(() => {
      throw new CliError(`${source} cannot be read. Give a folder or a ZIP.`);
    });
    return unpacked(client, await client.post('/api/intakes/archive', request, content));
  }
  const isFile = (await stat(source).catch(() => undefined))?.isFile() === true;
  const folder = isFile ? dirname(source) : source;
  const paths = isFile ? [basename(source)] : await withoutManifest(source, await filesIn(source));
  const sheet = await client.send('POST', '/api/intakes', request);
  await upload(client, sheet.id, folder, paths);
  return client.get(`/api/intakes/${sheet.id}`);
}

/** A folder or an archive becomes a place of its name; a single file comes to the top. */
async function placeFor(source: string): Promise<string> {
  const isArchive = /\.zip$/i.test(source);
  const isFile = (await stat(source).catch(() => undefined))?.isFile() === true;
  if (isFile && !isArchive) return '/';
  return `/${basename(source)
    .replace(/\.zip$/i, '')
    .replace(/[\\/]/g, '_')}`;
}

/** A working copy's manifest is no design file; any other file that is called so is one. */
async function withoutManifest(folder: string, paths: readonly string[]): Promise<string[]> {
  if (!paths.includes(MANIFEST_NAME)) return [...paths];
  const text = await readFile(join(folder, MANIFEST_NAME), 'utf8');
  return text.includes('stem-trace working copy') ? paths.filter((path) => !OWN_NAMES.has(path)) : [...paths];
}

/** Waits until an archive is unpacked. @throws CliError where it was refused */
export async function unpacked(client: Client, sheet: IntakeView): Promise<IntakeView> {
  let view = sheet;
  while (view.state === 'unpacking') {
    await new Promise((done) => setTimeout(done, POLL_MS));
    view = await client.get(`/api/intakes/${sheet.id}`);
  }
  if (view.state === 'failed') throw new CliError(view.failure ?? 'The archive was refused.');
  return view;
}

/** Sends files to an intake sheet, a few at a time. */
export async function upload(
  client: Client,
  id: string,
  folder: string,
  paths: readonly string[],
): Promise<void> {
  let next = 0;
  const worker = async (): Promise<void> => {
    for (let path = paths[next++]; path !== undefined; path = paths[next++]) {
      await client.put(`/api/intakes/${id}/files`, { path }, await readFile(join(folder, path)));
    }
  };
  await Promise.all(Array.from({ length: PARALLEL_UPLOADS }, worker));
}

/** Carries a sheet out and waits for the end. @throws CliError with what the server says where it fails */
export async function carryOut(client: Client, id: string, request: CarryOutRequest): Promise<IntakeView> {
  let view = await client.send('POST', `/api/intakes/${id}/carry-out`, request);
  while (view.state === 'carrying out') {
    await new Promise((done) => setTimeout(done, POLL_MS));
    view = await client.get(`/api/intakes/${id}`);
  }
  if (view.state === 'failed') throw new CliError(view.failure ?? 'The intake failed; nothing was changed.');
  return view;
}
