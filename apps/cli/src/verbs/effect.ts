import type { EffectAnswer } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const effect: Verb = {
  usage: 'effect NUMBER[@VERSION] … [--lens recorded|newest|released|DATE] [--levels N]',
  about: 'What a change of items would touch',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { lens: { type: 'string' }, levels: { type: 'string' } },
      { min: 1, max: 1000 },
      effect.usage,
    );
    const client = await connect();
    const answer = await client.send('POST', '/api/effect', {
      items: parsed.positionals,
      lens: parsed.text('lens') ?? 'newest',
      levels: Number(parsed.text('levels') ?? 0),
    });
    return sayEffect(answer);
  },
};

export const common: Verb = {
  usage: 'common NUMBER NUMBER … [--lens recorded|newest|released|DATE]',
  about: 'The nearest assemblies that hold all of some items',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(args, { lens: { type: 'string' } }, { min: 2, max: 100 }, common.usage);
    const client = await connect();
    return sayEffect(
      await client.send('POST', '/api/common', {
        items: parsed.positionals,
        lens: parsed.text('lens') ?? 'newest',
      }),
    );
  },
};

function sayEffect(answer: EffectAnswer): Answer {
  const rows = answer.rows.map(({ heldBy, ...row }) => ({ ...row, heldBy: heldBy?.login ?? null }));
  return {
    json: { items: answer.items, rows, hidden: answer.hidden },
    lines: [
      ...table(
        rows.map((row) => [
          row.part,
          row.number,
          row.version,
          row.state,
          row.quantity === null ? '' : `= ${row.quantity}`,
          row.heldBy === null ? '' : `held by ${row.heldBy}`,
          row.name,
        ]),
      ),
      `${rows.length} items${answer.hidden > 0 ? `, ${answer.hidden} not visible to you` : ''}.`,
    ],
  };
}
