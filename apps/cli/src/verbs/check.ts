/** What waits for a decision, and check sheets. */
import type { SheetItem } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { address, CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const waits: Verb = {
  usage: 'waits',
  about: 'Check sheets that wait for your decision, and those that you sent',
  async run(args, { connect }): Promise<Answer> {
    parseVerb(args, {}, { min: 0, max: 0 }, waits.usage);
    const rows = await (await connect()).get('/api/sheets');
    return {
      json: { rows },
      lines: table(
        rows.map(({ id, title, sentBy, sentAt, isMine, undecided, items }) => [
          ...[id, isMine ? 'waits for you' : undecided === 0 ? 'decided' : 'waits for others'],
          ...[`${items - undecided} of ${items} decided`, sentAt.slice(0, 16), sentBy, title],
        ]),
      ),
    };
  },
};

export const sheet: Verb = {
  usage: 'sheet SHEET',
  about: 'What stands on a check sheet: state, who has opened it, points that are open',
  async run(args, { connect }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, sheet.usage);
    const view = await (await connect()).get(`/api/sheets/${idOf(positionals[0])}`);
    return {
      json: view,
      lines: [
        ...(view.until === null
          ? []
          : [`To be decided by ${view.until}${view.isLate ? ', which has passed' : ''}`]),
        ...(view.asked.length === 0 ? [] : [`Asked: ${view.asked.map(({ name }) => name).join(', ')}`]),
        `${view.title}, sent by ${view.sentBy} ${view.sentAt.slice(0, 16)}${view.reason === '' ? '' : `: ${view.reason}`}`,
        ...view.rows.flatMap(linesOf),
      ],
    };
  },
};

export const agree: Verb = {
  usage: 'agree SHEET',
  about: 'Say where a check sheet is decided: only a person signs, in a browser, with the password',
  async run(args, { connect, env }): Promise<Answer> {
    const { positionals } = parseVerb(args, {}, { min: 1, max: 1 }, agree.usage);
    const { id, title } = await (await connect()).get(`/api/sheets/${idOf(positionals[0])}`);
    const { url } = await address(env);
    const at = new URL(`/check/${id}`, url).href;
    return { json: { sheet: id, address: at }, lines: [`Decide about ${title} at ${at}`] };
  },
};

export const sendBack: Verb = {
  usage: 'sendback SHEET --reason R',
  about: 'Send everything on a check sheet back that waits for your decision',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, { reason: { type: 'string' } }, { min: 1, max: 1 }, sendBack.usage);
    const client = await connect();
    const { rows, isMine } = await client.get(`/api/sheets/${idOf(parsed.positionals[0])}`);
    const { states } = await client.get('/api/lifecycles');
    const open = new Set(states.flatMap(({ name, lane }) => (lane === 'open' ? name : [])));
    const waiting = rows.filter(({ isUndecided }) => isUndecided);
    const [first] = waiting;
    const back = first?.steps.find(({ to }) => open.has(to));
    if (!isMine || !back) throw new CliError('Nothing on it waits for you to send it back.');
    const items = waiting.map(({ number }) => number);
    const answer = await client.send('POST', '/api/steps', {
      ...{ items, step: back.name, reason: parsed.text('reason') ?? '' },
    });
    return {
      json: answer,
      lines: answer.done.map(({ number, version }) => `${number} ${version}: ${back.name}`),
    };
  },
};

export const check: Verb = {
  usage: 'check NUMBER … [--for LOGIN,…] [--until DAY] [--reason R] [--below]',
  about: 'Send items for checking, to whoever may decide or to somebody by name',
  async run(args, { connect }): Promise<Answer> {
    const options = {
      for: { type: 'string' },
      until: { type: 'string' },
      reason: { type: 'string' },
      below: { type: 'boolean' },
    } as const;
    const parsed = parseVerb(args, options, { min: 1, max: 10_000 }, check.usage);
    const items = parsed.positionals;
    const client = await connect();
    const offered = await client.send('POST', '/api/steps/offered', { items });
    const step = offered.find(({ isHandingOn }) => isHandingOn);
    if (!step) throw new CliError(`No step that you may take sends ${items.join(', ')} for checking.`);
    const people = (parsed.text('for') ?? '').split(',').flatMap((login) => login.trim() || []);
    const until = parsed.text('until');
    const answer = await client.send('POST', '/api/steps', {
      ...{ items, step: step.name, reason: parsed.text('reason') ?? '', below: parsed.flag('below') },
      ...(people.length === 0 ? {} : { for: people }),
      ...(until === undefined ? {} : { until }),
    });
    return {
      json: answer,
      lines: [
        ...answer.done.map(({ number, version }) => `${number} ${version}: ${step.name}`),
        `Check sheet ${answer.sheet ?? ''}`,
      ],
    };
  },
};

function linesOf({ number, version, name, state, isUndecided, seenBy, points }: SheetItem): string[] {
  const seen =
    seenBy.length === 0 ? 'opened by nobody' : `opened by ${seenBy.map(({ by }) => by).join(', ')}`;
  return [
    `  ${number} ${version}  ${isUndecided ? `${state}, undecided` : state}  ${seen}  ${name}`,
    ...points
      .filter(({ closed }) => closed === null)
      .map(({ by, words, answer }) => `      ${by}: ${words}${answer ? ` → ${answer.words}` : ''}`),
  ];
}

function idOf(text = ''): string {
  if (!/^[1-9]\d{0,17}$/.test(text)) throw new CliError(`${text} is no check sheet; stem waits lists them.`);
  return text;
}
