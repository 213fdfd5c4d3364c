import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import {
  PLAIN_DERIVATION,
  type DerivePreview,
  type DeriveRequest,
  type DeriveResult,
  type UseChoice,
} from '@stem-trace/contract';
import { parseVerb, splitList, type Parsed } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

const OPTIONS = {
  copy: { type: 'string', multiple: true },
  share: { type: 'string', multiple: true },
  omit: { type: 'string', multiple: true },
  swap: { type: 'string', multiple: true },
  use: { type: 'string', multiple: true },
  configuration: { type: 'string' },
  baseline: { type: 'string' },
  replace: { type: 'string', multiple: true },
  prefix: { type: 'string' },
  scheme: { type: 'string' },
  place: { type: 'string' },
} as const;

const WISHES =
  '[--copy all|N1,N2,…] [--share N1,…] [--omit N1,…] [--swap A=B …] [--use "A > B=DECISION" …] [--configuration NAME] [--baseline ID] ' +
  '[--replace FROM=TO …] [--prefix P] [--scheme NAME] [--place PATH]';

export const derive: Verb = {
  usage: `derive NUMBER[@VERSION] ${WISHES} [--dry-run]\n       stem derive --plan FILE [--dry-run]`,
  about: 'Make a variant whose references stay intact',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { ...OPTIONS, plan: { type: 'string' }, 'dry-run': { type: 'boolean' } },
      { min: 0, max: 1 },
      derive.usage,
    );
    const file = parsed.text('plan');
    const request = file === undefined ? requestOf(parsed, derive.usage) : await readPlan(file);
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
        `${result.variant}: ${counts(result)}.`,
        ...result.notes,
        `Proof: ${references} references, ${copied} to copies, ${shared} shared, ${dangling} dangling, ${leaking} leaking.`,
      ],
    };
  },
};

export const plan: Verb = {
  usage: `plan NUMBER[@VERSION] ${WISHES}`,
  about: 'A derivation as JSON, to be changed and carried out with derive --plan',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, OPTIONS, { min: 1, max: 1 }, plan.usage);
    const request = requestOf(parsed, plan.usage);
    const client = await connect();
    const preview = await client.send('POST', '/api/derive/preview', request);
    const whole = asDecided(request, preview);
    return { json: whole, lines: JSON.stringify(whole, null, 2).split('\n') };
  },
};

export const begin: Verb = {
  usage: 'begin TEMPLATE [--name NAME] [--scheme NAME] [--place PATH]',
  about: 'Begin an item with a template: copied under new numbers, and held',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { name: { type: 'string' }, scheme: { type: 'string' }, place: { type: 'string' } },
      { min: 1, max: 1 },
      begin.usage,
    );
    const begun = await (
      await connect()
    ).send('POST', '/api/begin', {
      item: parsed.positionals[0] ?? '',
      name: parsed.text('name') ?? '',
      scheme: parsed.text('scheme') ?? '',
      place: parsed.text('place') ?? '',
    });
    const others = begun.made.filter((number) => number !== begun.number);
    return {
      json: begun,
      lines: [
        `${begun.number} ${begun.version} is yours.`,
        ...(others.length === 0 ? [] : [`With it: ${others.join(', ')}.`]),
        `stem fetch ${begun.number} --to DIR brings its files.`,
      ],
    };
  },
};

/** A request that says of each line what becomes of it, so that nothing of it is left to a proposal. */
function asDecided(request: DeriveRequest, { lines }: DerivePreview): DeriveRequest {
  const own = lines.filter(({ key, number, forced }) => key === number && !forced);
  const numbersOf = (decision: string): string[] =>
    own.flatMap((line) => (line.decision === decision ? [line.number] : []));
  return {
    ...request,
    copy: 'none',
    alsoCopy: numbersOf('copy'),
    share: numbersOf('share'),
    omit: numbersOf('omit'),
    renamed: Object.fromEntries(
      lines.flatMap(({ key, newNumber, newName }) =>
        newNumber === null ? [] : [[key, { number: newNumber, name: newName ?? newNumber }]],
      ),
    ),
  };
}

function requestOf(parsed: Parsed, usage: string): DeriveRequest {
  const item = parsed.positionals[0];
  if (item === undefined) throw new CliError(`Which item? Usage: stem ${usage}`);
  const copy = parsed.texts('copy');
  const isAll = copy.includes('all');
  return {
    ...PLAIN_DERIVATION,
    item,
    copy: copy.length === 0 ? 'proposed' : isAll ? 'all' : 'none',
    alsoCopy: isAll ? [] : splitList(...copy),
    share: splitList(...parsed.texts('share')),
    omit: splitList(...parsed.texts('omit')),
    swap: parsed.texts('swap').map((text) => pair('--swap', text)),
    uses: parsed.texts('use').map(useChoice),
    configuration: parsed.text('configuration') ?? '',
    baseline: parsed.text('baseline') ?? '',
    replace: parsed.texts('replace').map((text) => pair('--replace', text)),
    prefix: parsed.text('prefix') ?? '',
    scheme: parsed.text('scheme') ?? '',
    place: parsed.text('place') ?? '',
    key: randomUUID(),
  };
}

/** A plan that `stem plan` wrote and somebody may have changed; a key of its own, so that it can be carried out again. */
async function readPlan(file: string): Promise<DeriveRequest> {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new CliError(`${file} cannot be read. Write one with stem plan NUMBER > ${file}.`);
  });
  try {
    return { ...PLAIN_DERIVATION, ...(JSON.parse(text) as DeriveRequest), key: randomUUID() };
  } catch (error) {
    throw new CliError(`${file} is no plan: ${error instanceof Error ? error.message : String(error)}.`);
  }
}

/** `A > B > C=omit`, `… C:2,4=swap X`: numbers down to a line, which of its occurrences, and what becomes of them. */
function useChoice(text: string): UseChoice {
  const { from, to } = pair('--use', text);
  const [, chain = '', places] = /^(.*?)(?::([0-9]+(?:,[0-9]+)*))?$/s.exec(from) ?? [];
  const [, decision = '', other = ''] = /^(share|copy|omit|swap) *(.*)$/s.exec(to.trim()) ?? [];
  const isRight = decision === 'swap' ? other !== '' : decision !== '' && other === '';
  if (!isRight)
    throw new CliError(
      `--use ${text}: write "A > B=share", =copy, =omit or "=swap NUMBER", with :2 behind B for its second occurrence.`,
    );
  return {
    chain: chain.split(' > ').map((number) => number.trim()),
    decision: decision as UseChoice['decision'],
    ...(other === '' ? {} : { to: other }),
    ...(places === undefined ? {} : { occurrences: places.split(',').map(Number) }),
  };
}

function counts({ made, shared, omitted, swapped }: DeriveResult): string {
  return [
    `${made.length} copied`,
    `${shared.length} shared`,
    ...(swapped.length === 0 ? [] : [`${swapped.length} swapped`]),
    ...(omitted.length === 0 ? [] : [`${omitted.length} left out`]),
  ].join(', ');
}

function pair(option: string, text: string): { from: string; to: string } {
  const at = text.indexOf('=', 1);
  if (at < 0) throw new CliError(`${option} ${text}: write FROM=TO.`);
  return { from: text.slice(0, at), to: text.slice(at + 1) };
}

function dryRun({ lines, hindrances }: DerivePreview): Answer {
  const clashes = lines.filter((line) => line.clash !== null);
  const stops = hindrances.filter((each) => each.stops && each.kind === 'file');
  if (clashes.length + stops.length > 0)
    throw new CliError(
      [
        ...clashes.map((line) => `${line.key}: ${line.clash?.says}`),
        ...stops.map(({ numbers, says, help }) => `${numbers.join(', ')}: ${says}. ${help}`),
      ].join('\n'),
    );
  const copied = lines.filter((line) => line.newNumber !== null);
  const numbersOf = (decision: string): string[] =>
    lines.flatMap((line) => (line.decision === decision ? [line.number] : []));
  return {
    json: {
      variant: copied[0]?.newNumber ?? null,
      made: copied.map((line) => ({ from: line.number, to: line.newNumber })),
      shared: numbersOf('share'),
      omitted: numbersOf('omit'),
      swapped: lines.flatMap(({ number, to }) => (to ? [{ from: number, to: to.number }] : [])),
      proof: null,
      notes: [
        ...copied.filter((line) => line.forced).map((line) => `${line.key} is copied: ${line.reason}`),
        ...hindrances.map(({ says, help }) => `${says}. ${help}`),
      ],
    },
    lines: [
      ...table(
        lines.map((line) => [line.decision, line.key, line.newNumber ?? line.to?.number ?? '', line.reason]),
      ),
      ...hindrances.map(({ says, help }) => `${says}. ${help}`),
    ],
  };
}
