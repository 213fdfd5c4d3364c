/** What was derived from what, and what variants have in common. */
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

const LENS = { lens: { type: 'string' } } as const;

export const drift: Verb = {
  usage: 'drift NUMBER [--lens recorded|newest|released|DATE]',
  about: 'How far variants and what they were derived from have gone their own ways',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, LENS, { min: 1, max: 1 }, drift.usage);
    const client = await connect();
    const answer = await client.get('/api/stem', { item: parsed.positionals[0], lens: parsed.text('lens') });
    return {
      json: answer,
      lines: table(
        answer.rows.map(({ level, number, version, name, from, drift: counts }) => [
          `${'  '.repeat(level - 1)}${number}`,
          version,
          from ? `from ${from.number} ${from.version}` : '',
          counts
            ? `origin ${counts.origin}, variant ${counts.variant}, both ${counts.apart + counts.contradict}`
            : '',
          name,
        ]),
      ),
    };
  },
};

export const family: Verb = {
  usage: 'family NUMBER [--lens recorded|newest|released|DATE]',
  about: 'All variants of a stem, position by position',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, LENS, { min: 1, max: 1 }, family.usage);
    const client = await connect();
    const answer = await client.get('/api/family', {
      item: parsed.positionals[0],
      lens: parsed.text('lens'),
    });
    const { common, all } = answer.shares.positions;
    return {
      json: answer,
      lines: [
        `${answer.origin.number} ${answer.origin.version}: ${common} of ${all} parts in common`,
        ...table([
          ['', '', ...answer.variants.map(({ number }) => number)],
          ...answer.rows.map(({ level, number, amount, cells }) => [
            `${'  '.repeat(level - 1)}${number}`,
            `×${amount}`,
            ...cells.map(({ verdict, number: own, version }) =>
              verdict === 'absent'
                ? ''
                : verdict === 'same'
                  ? '='
                  : [verdict, own, version].filter(Boolean).join(' '),
            ),
          ]),
        ]),
      ],
    };
  },
};
