/** Bills from the command line: made, read, changed, carried over, checked and released. */
import type { BuildAnswer } from '@stem-trace/contract';
import {
  accountOf,
  countAccount,
  isClosed,
  sayAmount,
  setCell,
  type BuildRow,
  type Side,
} from '@stem-trace/core';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

const make: Verb = {
  usage: 'bill new NUMBER --of ITEM --name NAME [--lens L] [--place P]',
  about: 'Make a bill of an item',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      {
        of: { type: 'string' },
        name: { type: 'string' },
        lens: { type: 'string' },
        place: { type: 'string' },
      },
      { min: 1, max: 1 },
      make.usage,
    );
    const item = parsed.text('of');
    if (item === undefined) throw new CliError(`Say what it is of: --of ITEM.\nUsage: stem ${make.usage}`);
    const [number = ''] = parsed.positionals;
    const made = await (
      await connect()
    ).send('POST', '/api/bills', {
      ...{ item, number, name: parsed.text('name') ?? number },
      ...{ lens: parsed.text('lens') ?? 'newest', place: parsed.text('place') ?? '' },
    });
    return { json: made, lines: [`${made.number} ${made.version} is made, and held by you.`] };
  },
};

const show: Verb = {
  usage: 'bill show NUMBER[@VERSION]',
  about: 'The rows of a bill, and its account',
  async run(args, { connect }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, show.usage);
    const answer = await (await connect()).get('/api/build', { bill: positionals[0] ?? '' });
    return {
      json: { ...answer, account: answer.hidden > 0 ? null : accountOf(answer.bill) },
      lines: sayBill(answer),
    };
  },
};

function sayBill({ item, bill, behind, hidden }: BuildAnswer): string[] {
  const counts = countAccount(accountOf(bill));
  const account =
    hidden > 0
      ? `cannot be judged: ${hidden} rows are not visible to you`
      : isClosed(counts)
        ? 'closed'
        : `${counts.missing} missing, ${counts.surplus} surplus`;
  return [
    `${item.number} ${item.version} (${item.state}), ${item.name}, for ${bill.engineering.number} ${bill.engineering.version}`,
    `Account ${account}. Engineering moved on: ${behind === null ? 'cannot be told' : `${behind} rows`}.`,
    ...table(
      bill.rows.map((row) => [
        row.find,
        `${'  '.repeat(row.level - 1)}${row.number || '(text)'}`,
        row.name,
        sayAmount(row.amount),
        row.designators,
        ...bill.columns.map(({ id }) => row.values[id] ?? ''),
      ]),
    ),
  ];
}

const set: Verb = {
  usage: 'bill set NUMBER ROW COLUMN VALUE',
  about: 'Write a cell of a held bill; ROW is a find number, a number or a text that one row has',
  async run(args, { connect }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 4, max: 4 }, set.usage);
    const [number = '', of = '', column = '', value = ''] = positionals;
    const client = await connect();
    const { bill, item } = await client.get('/api/build', { bill: number });
    const row = rowOf(bill.rows, of);
    const field =
      bill.columns.find(({ name }) => name.toLowerCase() === column.toLowerCase())?.id ??
      FIELDS[column.toLowerCase()];
    if (field === undefined)
      throw new CliError(
        `There is no column ${column}. There are ${[...Object.keys(FIELDS), ...bill.columns.map(({ name }) => name)].join(', ')}.`,
      );
    const next = setCell(row, field, value, bill.columns);
    if (typeof next === 'string') throw new CliError(next);
    const rows = bill.rows.map((each) => (each.id === row.id ? next : each));
    const made = await client.send('PUT', '/api/build', {
      ...{ bill: item.number, version: item.version, columns: bill.columns },
      ...{ reasons: bill.reasons, outputs: bill.outputs },
      rows: rows.map(({ itemId: _, ...each }) => each),
      comment: `${of}, ${column}: ${value}`,
    });
    return { json: made, lines: [`Saved as ${made.number} ${made.version}.`] };
  },
};

const FIELDS: Readonly<Record<string, string>> = {
  find: 'find',
  quantity: 'amount',
  designators: 'designators',
  name: 'name',
};

function rowOf(rows: readonly BuildRow[], of: string): BuildRow {
  const found = rows.filter(({ find, number, name }) => [find, number, name].includes(of));
  const [row] = found;
  if (!row) throw new CliError(`No row has the find number, number or text ${of}.`);
  if (found.length > 1)
    throw new CliError(`${found.length} rows are called ${of}. Give them find numbers first.`);
  return row;
}

const carry: Verb = {
  usage: 'bill carry NUMBER [--take mine|theirs] [--preview]',
  about: 'Carry later engineering over; --take decides every contradiction',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { take: { type: 'string' }, preview: { type: 'boolean' } },
      { min: 1, max: 1 },
      carry.usage,
    );
    const [bill = ''] = parsed.positionals;
    const take = parsed.text('take');
    if (take !== undefined && take !== 'mine' && take !== 'theirs')
      throw new CliError(`--take is mine or theirs.\nUsage: stem ${carry.usage}`);
    const client = await connect();
    const plan = await client.get('/api/build/carry', { bill });
    const lines = [
      `${plan.item} ${plan.from} → ${plan.to}: ${plan.brought.length} rows come or change, ${plan.contradictions.length} contradictions.`,
      ...plan.brought.map(
        ({ kind, number, name, cells }) =>
          `${kind.padEnd(8)} ${number} ${name} ${cells.map(({ field, was, comes }) => `${field} ${was} → ${comes}`).join(', ')}`,
      ),
      ...plan.contradictions.map(
        ({ number, what, base, mine, theirs }) =>
          `decide   ${number}, ${what}: was ${base}, bill ${mine}, engineering ${theirs}`,
      ),
    ];
    if (parsed.flag('preview')) return { json: plan, lines };
    const { item } = await client.get('/api/build', { bill });
    const decisions: Record<string, Side> = {};
    if (take !== undefined) for (const { key } of plan.contradictions) decisions[key] = take;
    const made = await client.send('POST', '/api/build/carry', {
      ...{ bill, version: item.version, to: plan.to, decisions, comment: '' },
    });
    return { json: { ...plan, made }, lines: [...lines, `Carried over as ${made.number} ${made.version}.`] };
  },
};

const check: Verb = {
  usage: 'bill check NUMBER',
  about: 'What stands in the way of a release',
  async run(args, { connect }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, check.usage);
    const answer = await (await connect()).get('/api/build/check', { bill: positionals[0] ?? '' });
    const lines = answer.failures.map(({ says }) => says);
    return { json: answer, lines: lines.length > 0 ? lines : ['Ready: nothing stands in the way.'] };
  },
};

const release: Verb = {
  usage: 'bill release NUMBER --notes TEXT',
  about: 'Release a bill that is in check; its files are made, and planning is sent it',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, { notes: { type: 'string' } }, { min: 1, max: 1 }, release.usage);
    const client = await connect();
    const items = parsed.positionals;
    const { states } = await client.get('/api/lifecycles');
    const released = new Set(states.flatMap((state) => (state.isReleased ? state.name : [])));
    const offered = await client.send('POST', '/api/steps/offered', { items });
    const step = offered.find(({ to }) => released.has(to));
    if (!step) throw new CliError(`No step that you may take releases ${items.join(', ')} from where it is.`);
    const answer = await client.send('POST', '/api/steps', {
      ...{ items, step: step.name, reason: parsed.text('notes') ?? '' },
    });
    return { json: answer, lines: answer.done.map(({ number }) => `${number} is released.`) };
  },
};

const releases: Verb = {
  usage: 'bill releases NUMBER',
  about: 'Releases of a bill, with their files and whether planning has them',
  async run(args, { connect }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, releases.usage);
    const all = await (await connect()).get('/api/build/releases', { bill: positionals[0] ?? '' });
    return {
      json: all,
      lines: all.map(
        ({ version, at, by, notes, files, planning, problem }) =>
          `${version}  ${at.slice(0, 10)}  ${by}  ${notes}  ${problem ?? files.map(({ name }) => name).join(', ')}  planning: ${planning.state}`,
      ),
    };
  },
};

/** Words after `bill` that are no number. */
export const BILL_VERBS: ReadonlyMap<string, Verb> = new Map([
  ['new', make],
  ['show', show],
  ['set', set],
  ['carry', carry],
  ['check', check],
  ['release', release],
  ['releases', releases],
]);
