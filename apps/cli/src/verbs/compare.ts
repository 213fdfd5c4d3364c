import type { CompareRow } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

const SIGNS: Readonly<Record<CompareRow['sign'], string>> = {
  added: '+',
  removed: '−',
  changed: '≠',
  replaced: '⇄',
  moved: '↕',
  same: '=',
};

export const compare: Verb = {
  usage: 'compare FROM TO [--net] [--lens L]',
  about: 'What is different between two versions',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { net: { type: 'boolean' }, lens: { type: 'string' } },
      { min: 2, max: 2 },
      compare.usage,
    );
    const client = await connect();
    const [from, to] = parsed.positionals;
    const answer = await client.get('/api/compare', {
      from,
      to,
      net: parsed.flag('net') || undefined,
      lens: parsed.text('lens'),
    });
    const rows = answer.rows.map(({ sign, level, number, by, before, after }) => ({
      sign,
      level,
      by,
      number,
      before,
      after,
    }));
    return {
      json: { from: answer.from, to: answer.to, sentence: answer.sentence, counts: answer.counts, rows },
      lines: [
        answer.sentence,
        ...table(
          answer.rows
            .filter((row) => row.sign !== 'same')
            .map((row) => [
              SIGNS[row.sign],
              `${'  '.repeat(row.level - 1)}${row.number}`,
              sideText(row.before),
              '→',
              sideText(row.after),
            ]),
        ),
      ],
    };
  },
};

function sideText(side: CompareRow['before']): string {
  return side ? `${side.number} ${side.version} ×${side.amount}` : '–';
}
