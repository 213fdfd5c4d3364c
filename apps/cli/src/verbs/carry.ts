import type { CarryOverRow } from '@stem-trace/contract';
import { parseVerb, splitList } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const carry: Verb = {
  usage: 'carry NUMBER [--leave N1,N2,…] [--dry-run]',
  about: 'Carry later changes of the origin over into a variant, which you hold then',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { leave: { type: 'string', multiple: true }, 'dry-run': { type: 'boolean' } },
      { min: 1, max: 1 },
      carry.usage,
    );
    const item = parsed.positionals[0] ?? '';
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
    const result = await client.send('POST', '/api/carry-over', { item, leave });
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

function cellsOf({ kind, number, from, to, because, says }: CarryOverRow): string[] {
  return [kind, number, from === '' ? to : `${from} → ${to}`, says || because];
}
