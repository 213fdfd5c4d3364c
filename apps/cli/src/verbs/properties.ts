import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import type { Answer, Verb } from './verb.js';

export const setProperties: Verb = {
  usage: 'set NUMBER … --property NAME=VALUE … [--class C] [--comment C]',
  about: 'Set properties of held items; an empty value takes one away',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      {
        property: { type: 'string', multiple: true },
        class: { type: 'string' },
        comment: { type: 'string' },
      },
      { min: 1, max: 10_000 },
      setProperties.usage,
    );
    const set = Object.fromEntries(
      parsed.texts('property').map((text) => {
        const at = text.indexOf('=');
        if (at <= 0) throw new CliError(`'${text}' is no property. Write it as 'Wall thickness=3 mm'.`);
        return [text.slice(0, at), text.slice(at + 1)];
      }),
    );
    const className = parsed.text('class');
    const answer = await (
      await connect()
    ).send('POST', '/api/items/properties', {
      items: parsed.positionals,
      set,
      ...(className === undefined ? {} : { class: className }),
      comment: parsed.text('comment') ?? '',
    });
    return { json: answer, lines: answer.done.map(({ number, version }) => `${number} ${version} made`) };
  },
};

export const reserve: Verb = {
  usage: 'number SCHEME [--count N]',
  about: 'Take the next numbers of a scheme; they are given once',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, { count: { type: 'string' } }, { min: 1, max: 1 }, reserve.usage);
    const answer = await (
      await connect()
    ).send('POST', '/api/numbers/reserve', {
      scheme: parsed.positionals[0],
      count: Number(parsed.text('count') ?? 1),
    });
    return { json: answer, lines: answer.numbers };
  },
};

export const align: Verb = {
  usage: 'align NUMBER … [--start CODE | --by PROPERTY] [--dry-run]',
  about: 'Bring revision codes into line with the scheme',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { start: { type: 'string' }, by: { type: 'string' }, 'dry-run': { type: 'boolean' } },
      { min: 1, max: 10_000 },
      align.usage,
    );
    const path = parsed.flag('dry-run') ? '/api/align/preview' : '/api/align';
    const by = parsed.text('by');
    const { rows, unchanged, disagrees } = await (
      await connect()
    ).send('POST', path, {
      ...{ items: parsed.positionals, start: parsed.text('start') ?? '' },
      ...(by === undefined ? {} : { property: by }),
    });
    return {
      json: { rows: rows.map(({ number, from, to }) => ({ number, from, to })), unchanged, disagrees },
      lines: [
        ...rows.map(({ number, from, to }) => `${number}: ${from} becomes ${to}`),
        ...disagrees.map(({ number, says }) => `${number}: left as it is; ${says}`),
        `${unchanged.length} in line already.`,
      ],
    };
  },
};
