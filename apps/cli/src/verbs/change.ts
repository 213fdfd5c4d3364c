/** Change requests and change orders. */
import { writeFile } from 'node:fs/promises';
import type { ChangeInput, ChangeView, NewChangeRequest } from '@stem-trace/contract';
import { CHANGE_RELATIONS, NO_CHANGE, type ChangeKind, type ChangeRelation } from '@stem-trace/core';
import { parseVerb } from '../arguments.js';
import { CliError, type Client } from '../client.js';
import type { Terminal } from '../terminal.js';
import { table, type Answer, type Verb } from './verb.js';

const USAGES = [
  'change list [--item NUMBER]',
  'change new request|order NAME --why TEXT [--shows NUMBER …] [--affects NUMBER …] [--answers REQUEST …]',
  'change show CHANGE',
  'change add CHANGE RELATION NUMBER …',
  'change step STEP CHANGE [--reason R]',
  'change redline ORDER [--pdf FILE] [--xml FILE]',
] as const;

type Part = (args: readonly string[], terminal: Terminal) => Promise<Answer>;

const PARTS: Readonly<Record<string, Part>> = { list, new: make, show, add, step, redline };

export const change: Verb = {
  usage: USAGES.join('\n       stem '),
  about:
    'Change requests and orders: list them, make one, say what it has to do with, take steps, get the redline',
  async run([part = '', ...args], terminal): Promise<Answer> {
    const run = PARTS[part];
    if (!run) throw new CliError(`Usage: stem ${change.usage}`);
    return run(args, terminal);
  },
};

async function list(args: readonly string[], { connect }: Terminal): Promise<Answer> {
  const parsed = parseVerb(args, { item: { type: 'string' } }, { min: 0, max: 0 }, USAGES[0]);
  const rows = await (await connect()).get('/api/changes', { item: parsed.text('item') ?? '' });
  return {
    json: { rows },
    lines: table(
      rows.map(({ number, kind, state, until, owner, waitsFor, name }) => [
        ...[number, kind, state, until === '' ? '' : `until ${until}`],
        ...[owner === '' ? waitsFor.join(', ') : owner, name],
      ]),
    ),
  };
}

async function make(args: readonly string[], { connect }: Terminal): Promise<Answer> {
  const many = { type: 'string', multiple: true } as const;
  const options = { why: { type: 'string' }, shows: many, affects: many, answers: many } as const;
  const parsed = parseVerb(args, options, { min: 2, max: 2 }, USAGES[1]);
  const [kind = '', name = ''] = parsed.positionals;
  if (kind !== 'request' && kind !== 'order') throw new CliError(`${kind}: make a request or an order.`);
  const lines = (
    [
      ['shows in', 'shows'],
      ['affects', 'affects'],
      ['answers', 'answers'],
    ] as const
  ).flatMap(([relation, option]) => parsed.texts(option).map((item) => lineOf(relation, item)));
  const request: NewChangeRequest = {
    ...{ kind: kind satisfies ChangeKind, name, number: '', place: '' },
    contents: { ...NO_CHANGE, why: parsed.text('why') ?? '', lines },
  };
  const json = await (await connect()).send('POST', '/api/changes', request);
  return { json, lines: [`${json.number} ${json.version}`] };
}

async function show(args: readonly string[], { connect }: Terminal): Promise<Answer> {
  const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, USAGES[2]);
  const view = await (await connect()).get('/api/change', { change: positionals[0] });
  return { json: view, lines: linesOf(view) };
}

function linesOf({
  number,
  name,
  kind,
  version,
  state,
  contents,
  lines,
  makes,
  tasks,
}: ChangeView): string[] {
  return [
    `${number} ${version}  ${kind}, ${state}  ${name}`,
    ...contents.why.split('\n').map((line) => `  ${line}`),
    ...table(lines.map((line) => [`  ${line.relation}`, line.number, line.state, line.name])),
    ...table(
      makes.map((made) => [
        '  makes',
        made.number,
        `${made.from ?? 'new'} → ${made.to}`,
        made.state,
        made.name,
      ]),
    ),
    ...tasks.map(
      (task) => `  ${task.done ? '✓' : '·'} ${task.what}${task.until === '' ? '' : `, until ${task.until}`}`,
    ),
  ];
}

async function add(args: readonly string[], { connect }: Terminal): Promise<Answer> {
  const { positionals } = parseVerb(args, {}, { min: 3, max: 5000 }, USAGES[3]);
  const [number = '', relation = '', ...items] = positionals;
  const client = await connect();
  if (relation === 'makes') {
    const answer = await client.send('POST', '/api/change/makes', { change: number, items });
    if (answer.done.length === 0)
      throw new CliError(answer.refused.map((each) => `${each.number}: ${each.reason}`).join('\n'));
    return {
      json: answer,
      lines: [
        ...answer.done.map((each) => `${each.number} ${each.version} is made by ${number}`),
        ...answer.refused.map((each) => `${each.number}: ${each.reason}`),
      ],
    };
  }
  const known = CHANGE_RELATIONS.find((each) => each === relation);
  if (!known)
    throw new CliError(
      `${relation}: say ${CHANGE_RELATIONS.map((each) => `'${each}'`).join(', ')} or makes.`,
    );
  const json = await saved(
    client,
    number,
    items.map((item) => lineOf(known, item)),
  );
  return { json, lines: [`${json.number} ${json.version}`] };
}

async function saved(
  client: Client,
  number: string,
  more: ChangeInput['lines'],
): Promise<{ readonly number: string; readonly version: string }> {
  const { name, version, contents, lines, tasks } = await client.get('/api/change', { change: number });
  const before = lines.map(({ relation, number: item, note, inStock, inWork }) => ({
    ...{ relation, item, note, inStock, inWork },
  }));
  const fresh = more.filter(
    ({ relation, item }) => !before.some((each) => each.relation === relation && each.item === item),
  );
  return client.send('PUT', '/api/change', {
    ...{ change: number, version, name },
    contents: {
      ...contents,
      lines: [...before, ...fresh],
      tasks: tasks.map(({ key, what, who, until }) => ({ key, what, who, until })),
    },
  });
}

function lineOf(relation: ChangeRelation, item: string): ChangeInput['lines'][number] {
  return { relation, item, note: '', inStock: '', inWork: '' };
}

async function step(args: readonly string[], { connect }: Terminal): Promise<Answer> {
  const parsed = parseVerb(args, { reason: { type: 'string' } }, { min: 2, max: 2 }, USAGES[4]);
  const [name = '', number = ''] = parsed.positionals;
  const json = await (
    await connect()
  ).send('POST', '/api/steps', { step: name, items: [number], reason: parsed.text('reason') ?? '' });
  return { json, lines: json.done.map((each) => `${each.number} ${each.version}: ${name}`) };
}

async function redline(args: readonly string[], { connect }: Terminal): Promise<Answer> {
  const options = { pdf: { type: 'string' }, xml: { type: 'string' } } as const;
  const parsed = parseVerb(args, options, { min: 1, max: 1 }, USAGES[5]);
  const client = await connect();
  const [number] = parsed.positionals;
  const json = await client.get('/api/change/redline', { change: number });
  for (const format of ['pdf', 'xml'] as const) {
    const file = parsed.text(format);
    if (file !== undefined)
      await writeFile(file, await client.download('/api/change/redline/file', { change: number, format }));
  }
  return {
    json,
    lines: json.rows.flatMap((row) => [
      `${row.number} ${row.from ?? 'new'} → ${row.to}: ${row.says}`,
      ...row.rows.map((each) => `  ${each.sign} ${each.number} ${each.before} → ${each.after}  ${each.what}`),
    ]),
  };
}
