/** Files taken apart and put together. */
import { writeFile } from 'node:fs/promises';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { carryOut, unpacked } from './intake.js';
import type { Answer, Verb } from './verb.js';

export const split: Verb = {
  usage: 'split NUMBER [--comment C] [--dry-run]',
  about: 'Take a file that holds several items apart, so that each has its own; you hold them',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { comment: { type: 'string' }, 'dry-run': { type: 'boolean' } },
      { min: 1, max: 1 },
      split.usage,
    );
    const client = await connect();
    const item = parsed.positionals[0] ?? '';
    const sheet = await unpacked(client, await client.send('POST', '/api/intakes/split', { item }));
    const isDry = parsed.flag('dry-run');
    if (isDry) await client.send('POST', `/api/intakes/${sheet.id}/cancel`, {});
    const done = isDry
      ? sheet
      : await carryOut(client, sheet.id, { comment: parsed.text('comment') ?? 'Taken apart', letGo: true });
    const { versions, items, refused, problems } = done.result ?? sheet.expected;
    if (refused.length + problems.length > 0 && !isDry && versions === 0)
      throw new CliError(
        [...refused, ...problems].map(({ file, reason }) => `${file}: ${reason}`).join('\n'),
      );
    return {
      json: { item, versions, items, refused, problems },
      lines: [
        `${item}: ${versions} ${isDry ? 'items would get files of their own' : 'items have files of their own'}.`,
        ...refused.map(({ file, number, reason }) => `refused  ${file} (${number}): ${reason}`),
        ...problems.map(({ file, reason }) => `problem  ${file}: ${reason}`),
      ],
    };
  },
};

export const join: Verb = {
  usage: 'join NUMBER[@VERSION] --to FILE [--lens L]',
  about: 'Fetch an assembly as one STEP file, for programs that read no references',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { to: { type: 'string' }, lens: { type: 'string' } },
      { min: 1, max: 1 },
      join.usage,
    );
    const to = parsed.text('to');
    if (to === undefined) throw new CliError(`Say where to: --to FILE.\nUsage: stem ${join.usage}`);
    const client = await connect();
    const bytes = await client.download('/api/fetch/joined', {
      item: parsed.positionals[0],
      lens: parsed.text('lens'),
    });
    const file = fromHere(to);
    await writeFile(file, bytes, { flag: 'wx' }).catch(() => {
      throw new CliError(
        `${file} is there already, or cannot be written. Nothing was written; choose another name.`,
      );
    });
    return { json: { file, bytes: bytes.length }, lines: [`${parsed.positionals[0]} in one file: ${file}`] };
  },
};
