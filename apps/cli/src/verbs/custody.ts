import type { CustodyAnswer } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { CliError, type Client } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

/** What was done to each item; the program fails where nothing could be done at all. */
function told(answer: CustodyAnswer, did: string): Answer {
  if (answer.done.length === 0 && answer.refused.length > 0) {
    throw new CliError(answer.refused.map(({ number, reason }) => `${number}: ${reason}`).join('\n'));
  }
  return {
    json: answer,
    isPartial: answer.refused.length > 0,
    lines: [
      ...answer.done.map(({ number, version }) => `${number} ${version} ${did}`),
      ...answer.refused.map(({ number, reason }) => `${number}: ${reason}`),
    ],
  };
}

interface ListVerb {
  readonly name: string;
  readonly about: string;
  readonly path: '/api/holds/let-go' | '/api/catch-up';
  readonly did: string;
}

/** A verb that does one thing to a list of items. */
function listVerb({ name, about, path, did }: ListVerb): Verb {
  const usage = `${name} NUMBER …`;
  return {
    usage,
    about,
    async run(args, { connect }): Promise<Answer> {
      const { positionals } = parseVerb(args, {}, { min: 1, max: 10_000 }, usage);
      return told(await (await connect()).send('POST', path, { items: positionals }), did);
    },
  };
}

export const letGo = listVerb({
  name: 'letgo',
  about: 'Give up holds',
  path: '/api/holds/let-go',
  did: 'let go',
});
export const revise: Verb = {
  usage: 'revise NUMBER … [--reason R] [--for ORDER]',
  about: 'Open the next revision of released items, and work on it for a change order',
  async run(args, { connect }): Promise<Answer> {
    const options = { reason: { type: 'string' }, for: { type: 'string' } } as const;
    const parsed = parseVerb(args, options, { min: 1, max: 10_000 }, revise.usage);
    const request = {
      items: parsed.positionals,
      reason: parsed.text('reason') ?? '',
      change: parsed.text('for') ?? '',
    };
    return told(await (await connect()).send('POST', '/api/revise', request), 'opened');
  },
};
export const catchUp = listVerb({
  name: 'catchup',
  about: 'Record the newest versions in held items',
  path: '/api/catch-up',
  did: 'made',
});

export const checkOut: Verb = {
  usage: 'checkout NUMBER … [--levels N|all] [--reason R] [--for ORDER]',
  about: 'Hold items for change, with so many levels below, and for a change order',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { levels: { type: 'string' }, reason: { type: 'string' }, for: { type: 'string' } },
      { min: 1, max: 10_000 },
      checkOut.usage,
    );
    const client = await connect();
    const items = await withLevels(client, parsed.positionals, parsed.text('levels'));
    return told(
      await client.send('POST', '/api/holds', {
        ...{ items, reason: parsed.text('reason') ?? '', change: parsed.text('for') ?? '' },
      }),
      'held',
    );
  },
};

async function withLevels(
  client: Client,
  items: readonly string[],
  levels: string | undefined,
): Promise<string[]> {
  const depth = levels === undefined ? 0 : levels === 'all' ? Infinity : Number(levels);
  if (!(depth >= 0)) throw new CliError(`--levels ${levels}: give a number, or all.`);
  const chosen = new Set(items);
  if (depth > 0) {
    for (const item of items) {
      const { rows } = await client.get('/api/made', { item, all: true });
      for (const row of rows) if (row.level <= depth && !row.gap) chosen.add(row.number);
    }
  }
  return [...chosen];
}

export const step: Verb = {
  usage: 'step STEP NUMBER … [--reason R] [--below] [--leave-out]',
  about:
    "Take a step of their lifecycle with items, such as 'ask for check': all or none, or with --leave-out those that can; with --below what they are made of comes along",
  async run(args, { connect }): Promise<Answer> {
    const options = {
      reason: { type: 'string' },
      below: { type: 'boolean' },
      'leave-out': { type: 'boolean' },
    } as const;
    const parsed = parseVerb(args, options, { min: 2, max: 10_000 }, step.usage);
    const [name, ...items] = parsed.positionals;
    const request = {
      ...{ step: name, items, reason: parsed.text('reason') ?? '' },
      ...{ below: parsed.flag('below'), leavesOut: parsed.flag('leave-out') },
    };
    return told(await (await connect()).send('POST', '/api/steps', request), `: ${name}`);
  },
};

export const bringBack: Verb = {
  usage: 'bringback NUMBER@VERSION [--comment C]',
  about: 'Make an older version the newest again',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, { comment: { type: 'string' } }, { min: 1, max: 1 }, bringBack.usage);
    const request = { item: parsed.positionals[0], comment: parsed.text('comment') ?? '' };
    const json = await (await connect()).send('POST', '/api/bring-back', request);
    return { json, lines: [`${json.number} ${json.version}`] };
  },
};

export const holds: Verb = {
  usage: 'holds',
  about: 'What you hold',
  async run(args, { connect }): Promise<Answer> {
    parseVerb(args, {}, { min: 0, max: 0 }, holds.usage);
    const rows = await (await connect()).get('/api/holds');
    return {
      json: {
        rows: rows.map(({ number, itemName, version, since, reason, behind }) => ({
          number,
          name: itemName,
          version,
          since,
          reason,
          behind,
        })),
      },
      lines: table(
        rows.map((row) => [row.number, row.version, row.since.slice(0, 16), row.itemName, row.reason]),
      ),
    };
  },
};

export const history: Verb = {
  usage: 'history NUMBER',
  about: 'Versions of an item, newest first',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, {}, { min: 1, max: 1 }, history.usage);
    const { number, name, versions } = await (
      await connect()
    ).get('/api/item', { item: parsed.positionals[0] });
    return {
      json: { number, name, versions },
      lines: table(
        versions.map((row) => [row.version, row.state, row.createdAt.slice(0, 16), row.author, row.comment]),
      ),
    };
  },
};

export const inbox: Verb = {
  usage: 'inbox',
  about: 'What you were told',
  async run(args, { connect }): Promise<Answer> {
    parseVerb(args, {}, { min: 0, max: 0 }, inbox.usage);
    const answer = await (await connect()).get('/api/notices');
    return {
      json: answer,
      lines: table(answer.rows.map((row) => [row.read ? ' ' : '•', row.at.slice(0, 16), row.says])),
    };
  },
};
