import { parseVerb } from '../arguments.js';
import { hasDrawings, planFor, readWorkingCopy, takeAsFetched } from '../working-copy.js';
import { carryOut, upload } from './intake.js';
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
    const { manifest, disk } = await readWorkingCopy(folder);
    const fetched = new Map(manifest.files.map(({ path, sha256 }) => [path, sha256]));
    const present = [...disk.keys()];
    const changed = present.filter((path) => disk.get(path) !== fetched.get(path));
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
    if (versions > 0) {
      const isRefused = new Set(refused.map(({ file }) => file));
      await takeAsFetched(
        await planFor(client, manifest, hasDrawings(manifest)),
        { folder, manifest, disk },
        changed.filter((path) => !isRefused.has(path)),
      );
    }
    const unchanged = present.length - changed.length;
    const missing = manifest.files.map(({ path }) => path).filter((path) => !disk.has(path));
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
