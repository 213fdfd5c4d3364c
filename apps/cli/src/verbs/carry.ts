import type { CarryDecision, CarryOverPlan, CarryOverRow } from '@stem-trace/contract';
import type { CarrySide } from '@stem-trace/core';
import { parseVerb, splitList } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const carry: Verb = {
  usage: 'carry NUMBER [--leave N1,N2,…] [--take origin|copy] [--dry-run]',
  about: 'Carry later changes of the origin over into a variant, which you hold then',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      {
        leave: { type: 'string', multiple: true },
        take: { type: 'string' },
        'dry-run': { type: 'boolean' },
      },
      { min: 1, max: 1 },
      carry.usage,
    );
    const item = parsed.positionals[0] ?? '';
    const take = parsed.text('take');
    if (take !== undefined && take !== 'origin' && take !== 'copy')
      throw new CliError(`--take is origin or copy.\nUsage: stem ${carry.usage}`);
    const client = await connect();
    if (parsed.flag('dry-run')) {
      const plan = await client.get('/api/carry-over', { item });
      return {
        json: plan,
        lines:
          plan.rows.length === 0
            ? [`${plan.variant}: nothing, ${plan.origin} has not changed since.`]
            : table(plan.rows.map(cellsOf)),
      };
    }
    const leave = splitList(...parsed.texts('leave'));
    const decided = take === undefined ? [] : everywhere(await client.get('/api/carry-over', { item }), take);
    const result = await client.send('POST', '/api/carry-over', { item, leave, decided });
    return {
      json: result,
      lines: [
        result.done.length === 0
          ? `${result.variant}: nothing was carried over.`
          : `${result.variant}: ${result.done.length} carried over.`,
        ...result.done.map(({ number, version }) => `done  ${number} ${version}`),
        ...result.left.map(({ number, says }) => `left  ${number}: ${says}`),
      ],
    };
  },
};

/** The same side for all that both changed. */
function everywhere({ rows }: CarryOverPlan, take: CarrySide): CarryDecision[] {
  return rows.flatMap(({ number, contradictions }) =>
    contradictions.map(({ field }) => ({ number, field, take })),
  );
}

function cellsOf({ kind, number, from, to, because, says, contradictions }: CarryOverRow): string[] {
  const torn = contradictions.map(({ field, origin, copy }) => `${field}: ${origin} or ${copy}?`);
  return [kind, number, from === '' ? to : `${from} → ${to}`, [says || because, ...torn].join('; ')];
}
