import { readFile } from 'node:fs/promises';
import type { OrderRequest, WishSheetRow } from '@stem-trace/contract';
import { delimiterOf } from '@stem-trace/core';
import { parse } from 'csv-parse/sync';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

const POLL_MS = 400;

export const wish: Verb = {
  usage: 'wish RECIPE FILE.json|FILE.csv [--dry-run]',
  about: 'Have variants made from wish sheets; a row or an object each, named as the recipe names its wishes',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(args, { 'dry-run': { type: 'boolean' } }, { min: 2, max: 2 }, wish.usage);
    const [recipe = '', file = ''] = parsed.positionals;
    const sheets = await readSheets(fromHere(file));
    const client = await connect();
    if (parsed.flag('dry-run')) {
      const plans = await Promise.all(
        sheets.map(({ wishes }) => client.send('POST', '/api/wishes/plan', { recipe, wishes })),
      );
      return {
        json: {
          recipe,
          plans: plans.map(({ problems, said, fulfilledBy }) => ({ problems, said, fulfilledBy })),
        },
        lines: plans.flatMap(({ problems, said, fulfilledBy }, at) => [
          `${sheets[at]?.for || `sheet ${at + 1}`}${fulfilledBy === null ? '' : `: ${fulfilledBy} fulfils it already`}`,
          ...problems.map(({ name, says }) => `  problem  ${name}: ${says}`),
          ...said.map(({ rule, says }) => `  ${rule}: ${says}`),
        ]),
      };
    }
    const { batch } = await client.send('POST', '/api/wishes', { recipe, sheets });
    let rows: readonly WishSheetRow[] = [];
    do {
      if (rows.length > 0) await new Promise((resolve) => setTimeout(resolve, POLL_MS));
      rows = await client.get('/api/wishes', { batch });
    } while (rows.some(isUnderWay));
    const ordered = rows.toReversed();
    const failed = ordered.filter(({ state }) => state === 'failed');
    const answer: Answer = {
      json: { batch, sheets: ordered },
      lines: table(
        ordered.map(({ for: of, state, variant, says, dangling, leaking }) => [
          ...[of, state, variant ?? ''],
          state === 'failed' ? says : `${dangling ?? 0} dangling, ${leaking ?? 0} leaking`,
        ]),
      ),
    };
    if (failed.length === ordered.length) throw new CliError(answer.lines.join('\n'));
    return answer;
  },
};

/** Made and proved, known before, or failed: then nothing more comes. */
function isUnderWay({ state, dangling }: WishSheetRow): boolean {
  return state === 'waiting' || (state === 'made' && dangling === null);
}

/** @throws CliError where the file is neither JSON nor CSV */
async function readSheets(file: string): Promise<OrderRequest['sheets'][number][]> {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new CliError(`${file} cannot be read.`);
  });
  try {
    const rows = /\.json$/i.test(file)
      ? (JSON.parse(text) as unknown)
      : parse(text, { columns: true, bom: true, skip_empty_lines: true, delimiter: delimiterOf(text) });
    const list = (Array.isArray(rows) ? rows : [rows]) as Record<string, string>[];
    return list.map((row) => {
      const { for: of = '', ...wishes } = row;
      return { for: String(of), wishes };
    });
  } catch (error) {
    throw new CliError(
      `${file} holds no wish sheets: ${error instanceof Error ? error.message : String(error)}.`,
    );
  }
}
