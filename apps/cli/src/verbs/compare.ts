import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import type { CompareRow, ThreeRow } from '@stem-trace/contract';
import { sayWhat } from '@stem-trace/core';
import { parseVerb } from '../arguments.js';
import type { Client } from '../client.js';
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
  usage:
    'compare FROM TO [--base B] [--net] [--lens L] [--by item,lineage,find,designator,place] [--columns "A;B"]',
  about:
    'What is different between two BOMs; a side is NUMBER[@VERSION], or a file: CSV, XLSX, XML, CycloneDX',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      {
        net: { type: 'boolean' },
        lens: { type: 'string' },
        base: { type: 'string' },
        by: { type: 'string' },
        columns: { type: 'string' },
      },
      { min: 2, max: 2 },
      compare.usage,
    );
    const client = await connect();
    const [from = '', to = ''] = parsed.positionals;
    const sides = { from: await sideOf(from, client, fromHere), to: await sideOf(to, client, fromHere) };
    const common = { lens: parsed.text('lens'), columns: parsed.text('columns') };
    const base = parsed.text('base');
    if (base !== undefined) {
      const three = await client.get('/api/compare/three', {
        ...{
          one: sides.from,
          other: sides.to,
          base: base === 'lineage' ? '' : await sideOf(base, client, fromHere),
        },
        ...common,
      });
      return { json: three, lines: [three.sentence, ...table(three.rows.filter(isChanged).map(threeLine))] };
    }
    const answer = await client.get('/api/compare', {
      ...sides,
      ...common,
      net: parsed.flag('net') || undefined,
      by: parsed.text('by'),
    });
    return {
      json: answer,
      lines: [
        answer.sentence,
        ...answer.whole.map(({ what, before, after }) => `${what}: ${before || 'none'} → ${after || 'none'}`),
        ...table(
          answer.rows
            .filter((row) => row.sign !== 'same')
            .map((row) => [
              SIGNS[row.sign],
              `${'  '.repeat(row.level - 1)}${row.number}`,
              sideText(row.before),
              '→',
              sideText(row.after),
              sayWhat(row).join('; '),
            ]),
        ),
      ],
    };
  },
};

/** A file of the disk is sent, and compared as the list that it is. */
async function sideOf(said: string, client: Client, fromHere: (path: string) => string): Promise<string> {
  const content = /\.(csv|tsv|txt|xlsx|xml|json)$/i.test(said)
    ? await readFile(fromHere(said)).catch(() => undefined)
    : undefined;
  if (!content) return said;
  const { id } = await client.post('/api/lists', { name: basename(said) }, content);
  return `list:${id}`;
}

function isChanged({ verdict }: ThreeRow): boolean {
  return verdict !== 'same';
}

function threeLine({ verdict, level, number, oneSays, otherSays }: ThreeRow): string[] {
  return [verdict, `${'  '.repeat(level - 1)}${number}`, oneSays || '–', otherSays || '–'];
}

function sideText(side: CompareRow['before']): string {
  return side ? `${side.number} ${side.version} ×${side.amount}` : '–';
}
