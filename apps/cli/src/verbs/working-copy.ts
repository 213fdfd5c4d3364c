/** Working copies: what differs from the store, bringing them up to date, and following what colleagues do. */
import { MANIFEST_NAME, type FetchManifest, type FetchPlanAnswer } from '@stem-trace/contract';
import { compareWorkingCopy, planUpdate, type CopyStatus } from '@stem-trace/core';
import { unzipSync } from 'fflate';
import { parseVerb } from '../arguments.js';
import { CliError, type Client } from '../client.js';
import type { Terminal } from '../terminal.js';
import {
  changeWorkingCopy,
  hasDrawings,
  lensOf,
  planFor,
  readManifest,
  readWorkingCopy,
} from '../working-copy.js';
import type { Answer, Verb } from './verb.js';

export const status: Verb = {
  usage: 'status DIR',
  about: 'What differs between a working copy and the store',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, status.usage);
    const { manifest, disk } = await readWorkingCopy(fromHere(positionals[0] ?? ''));
    const plan = await planFor(await connect(), manifest, hasDrawings(manifest));
    const { fresh, ...differs } = compareWorkingCopy(manifest.files, plan.files, disk);
    return {
      json: { item: plan.item, version: manifest.version, lens: lensOf(manifest), ...differs, new: fresh },
      lines: sayStatus(manifest, plan, { fresh, ...differs }),
    };
  },
};

function sayStatus(manifest: FetchManifest, plan: FetchPlanAnswer, differs: CopyStatus): string[] {
  const { changed, behind, held, moved, missing, fresh, added, gone } = differs;
  const lines = [
    ...changed.map(({ path, number }) => `changed  ${path} (${number})`),
    ...behind.map(
      ({ path, number, here, store }) => `behind   ${path} (${number}): ${here} here, ${store} in the store`,
    ),
    ...held.map(({ path, number, name }) => `held     ${path} (${number}) by ${name}`),
    ...moved.map(({ path, number, to }) => `moved    ${path} (${number}) is ${to} now`),
    ...missing.map(({ path, number }) => `missing  ${path} (${number})`),
    ...fresh.map((path) => `new      ${path}`),
    ...added.map(({ path, number, store }) => `added    ${path} (${number} ${store}) belongs to it by now`),
    ...gone.map(
      ({ path, number }) =>
        `gone     ${path} (${number}) does not belong to it any more, or may not be fetched`,
    ),
  ];
  const head = `${manifest.item}, ${manifest.files.length} files, compared with ${plan.version} under ${plan.lens}.`;
  return [head, ...(lines.length === 0 ? ['Nothing differs.'] : lines)];
}

export const update: Verb = {
  usage: 'update DIR',
  about: 'Bring newer versions into a working copy, never over what is changed there',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, update.usage);
    const folder = fromHere(positionals[0] ?? '');
    const { manifest, disk } = await readWorkingCopy(folder);
    const { fetched, entries } = await fetchAnew(await connect(), manifest);
    const plan = planUpdate(manifest.files, fetched.files, disk);
    const write = new Map(plan.write.map(({ path }) => [path, bytesOf(entries, path)]));
    await changeWorkingCopy(
      folder,
      { ...fetched, lens: manifest.lens, files: plan.files },
      { write, remove: plan.remove },
    );
    const written = [...write.keys()];
    return {
      json: { item: fetched.item, version: fetched.version, written, removed: plan.remove, kept: plan.kept },
      lines: [
        `${written.length} files brought, ${plan.remove.length} taken away, ${plan.kept.length} left as they are.`,
        ...written.map((path) => `brought  ${path}`),
        ...plan.remove.map((path) => `removed  ${path}`),
        ...plan.kept.map(({ path, reason }) => `kept     ${path}: ${reason}`),
        ...fetched.left.map(({ file, reason }) => `left     ${file}: ${reason}`),
      ],
    };
  },
};

/** What the store hands out now. @throws CliError */
async function fetchAnew(
  client: Client,
  manifest: FetchManifest,
): Promise<{ readonly fetched: FetchManifest; readonly entries: Readonly<Record<string, Uint8Array>> }> {
  const zip = await client.download('/api/fetch', {
    item: manifest.item,
    lens: lensOf(manifest),
    drawings: hasDrawings(manifest) || undefined,
  });
  const entries = unzipSync(zip);
  const bytes = entries[MANIFEST_NAME];
  if (!bytes) throw new CliError('What the server sent has no manifest. Nothing was written; try again.');
  return { fetched: JSON.parse(new TextDecoder().decode(bytes)) as FetchManifest, entries };
}

function bytesOf(entries: Readonly<Record<string, Uint8Array>>, path: string): Uint8Array {
  const bytes = entries[path];
  if (!bytes) throw new CliError(`What the server sent lacks ${path}. Nothing was written; try again.`);
  return bytes;
}

/** A change that somebody made to what lies in a working copy. */
interface Change {
  readonly kind: 'version' | 'held' | 'let go' | 'moved' | 'added' | 'gone';
  readonly path: string;
  readonly number: string;
  readonly says: string;
}

export const watch: Verb = {
  usage: 'watch DIR',
  about: 'Say live what colleagues do to what lies in a working copy, until Ctrl-C',
  async run(args, terminal): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, watch.usage);
    const manifest = await readManifest(terminal.fromHere(positionals[0] ?? ''));
    const client = await terminal.connect();
    const ended = new AbortController();
    terminal.onEnd(() => ended.abort());
    const isJson = args.includes('--json');
    const drawings = hasDrawings(manifest);
    let known = await planFor(client, manifest, drawings);
    let told = 0;
    say(terminal, isJson, {
      kind: 'watching',
      says: `Watching ${manifest.files.length} files of ${manifest.item}; Ctrl-C ends it.`,
    });
    for await (const kinds of client.events(ended.signal)) {
      if (!kinds.some((kind) => kind === 'items' || kind === 'holds' || kind === 'connected')) continue;
      const now = await planFor(client, manifest, drawings);
      for (const change of changesBetween(known, now)) {
        told++;
        say(terminal, isJson, change);
      }
      known = now;
    }
    return { json: { kind: 'ended', told }, lines: [`${told} changes told.`] };
  },
};

function say(
  terminal: Terminal,
  isJson: boolean,
  change: { readonly kind: string; readonly says: string },
): void {
  const at = new Date().toISOString();
  terminal.say(isJson ? JSON.stringify({ at, ...change }) : `${at.slice(11, 19)}  ${change.says}`);
}

type PlannedFile = FetchPlanAnswer['files'][number];

/** What happened between two looks. */
function changesBetween(before: FetchPlanAnswer, now: FetchPlanAnswer): Change[] {
  const old = new Map(before.files.map((file) => [file.items[0]?.number ?? file.path, file]));
  const fresh = new Set(now.files.map((file) => file.items[0]?.number ?? file.path));
  return [
    ...now.files.flatMap((file) => changesOf(old.get(file.items[0]?.number ?? file.path), file)),
    ...[...old].flatMap(([number, { path }]) =>
      fresh.has(number)
        ? []
        : [
            {
              kind: 'gone',
              path,
              number,
              says: `${number} does not belong to it any more (${path})`,
            } as const,
          ],
    ),
  ];
}

function changesOf(old: PlannedFile | undefined, file: PlannedFile): Change[] {
  const { path } = file;
  const [own] = file.items;
  if (!old) {
    const number = own?.number ?? path;
    return [{ kind: 'added', path, number, says: `${number} belongs to it by now (${path})` }];
  }
  const moved: Change[] =
    old.path === path
      ? []
      : [
          {
            kind: 'moved',
            path,
            number: own?.number ?? path,
            says: `${own?.number} is ${path} now, before ${old.path}`,
          },
        ];
  const byNumber = new Map(old.items.map((item) => [item.number, item]));
  return [
    ...moved,
    ...file.items.flatMap(({ number, version, heldBy }): Change[] => {
      const was = byNumber.get(number);
      if (!was) return [];
      const changes: Change[] = [];
      if (was.version !== version)
        changes.push({
          kind: 'version',
          path,
          number,
          says: `${number} has ${version} now, before ${was.version} (${path})`,
        });
      if (heldBy && was.heldBy?.login !== heldBy.login)
        changes.push({
          kind: 'held',
          path,
          number,
          says: `${heldBy.name} holds ${number}${heldBy.reason === '' ? '' : `: ${heldBy.reason}`} (${path})`,
        });
      if (!heldBy && was.heldBy)
        changes.push({ kind: 'let go', path, number, says: `${was.heldBy.name} let ${number} go (${path})` });
      return changes;
    }),
  ];
}
