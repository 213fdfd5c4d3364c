import { randomUUID } from 'node:crypto';
import type { DerivePreview, DeriveRequest } from '@stem-trace/contract';
import { parseVerb, splitList } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const derive: Verb = {
  usage:
    'derive NUMBER[@VERSION] [--copy all|N1,N2,…] [--share N1,…] [--replace FROM=TO …] [--prefix P] [--scheme NAME] [--place PATH] [--dry-run]',
  about: 'Make a variant whose references stay intact',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      {
        copy: { type: 'string', multiple: true },
        share: { type: 'string', multiple: true },
        replace: { type: 'string', multiple: true },
        prefix: { type: 'string' },
        scheme: { type: 'string' },
        place: { type: 'string' },
        'dry-run': { type: 'boolean' },
      },
      { min: 1, max: 1 },
      derive.usage,
    );
    const copy = parsed.texts('copy');
    const isAll = copy.includes('all');
    const request: DeriveRequest = {
      item: parsed.positionals[0] ?? '',
      copy: copy.length === 0 ? 'proposed' : isAll ? 'all' : 'none',
      alsoCopy: isAll ? [] : splitList(...copy),
      share: splitList(...parsed.texts('share')),
      replace: parsed.texts('replace').map(replacement),
      prefix: parsed.text('prefix') ?? '',
      rules: [],
      scheme: parsed.text('scheme') ?? '',
      renamed: {},
      place: parsed.text('place') ?? '',
      key: randomUUID(),
    };
    const client = await connect();
    if (parsed.flag('dry-run')) return dryRun(await client.send('POST', '/api/derive/preview', request));
    const result = await client.send('POST', '/api/derive', request);
    const { references, copied, shared, dangling, leaking, faults } = await client.get('/api/derive/proof', {
      item: result.variant,
    });
    if (dangling + leaking > 0)
      throw new CliError(
        `${result.variant} was made and is in the store: ${result.made.length} copied, ${result.shared.length} shared. Its proof found ${dangling} dangling and ${leaking} leaking references:\n${faults.join('\n')}`,
      );
    return {
      json: { ...result, proof: { references, copied, shared, dangling, leaking } },
      lines: [
        `${result.variant}: ${result.made.length} copied, ${result.shared.length} shared.`,
        ...result.notes,
        `Proof: ${references} references, ${copied} to copies, ${shared} shared, ${dangling} dangling, ${leaking} leaking.`,
      ],
    };
  },
};

function replacement(text: string): { from: string; to: string } {
  const at = text.indexOf('=', 1);
  if (at < 0) throw new CliError(`--replace ${text}: write FROM=TO.`);
  return { from: text.slice(0, at), to: text.slice(at + 1) };
}

function dryRun(preview: DerivePreview): Answer {
  const clashes = preview.lines.filter((line) => line.clash !== null);
  if (clashes.length > 0)
    throw new CliError(clashes.map((line) => `${line.number}: ${line.clash?.says}`).join('\n'));
  const copied = preview.lines.filter((line) => line.newNumber !== null);
  const shared = preview.lines.filter((line) => line.newNumber === null);
  return {
    json: {
      variant: copied[0]?.newNumber ?? null,
      made: copied.map((line) => ({ from: line.number, to: line.newNumber })),
      shared: shared.map((line) => line.number),
      proof: null,
      notes: copied.filter((line) => line.forced).map((line) => `${line.number} is copied: ${line.reason}`),
    },
    lines: table(
      preview.lines.map((line) => [line.decision, line.number, line.newNumber ?? '', line.reason]),
    ),
  };
}
