import { readFile } from 'node:fs/promises';
import type { LikePropertiesAnswer } from '@stem-trace/contract';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const like: Verb = {
  usage: 'like NUMBER|FILE.stp [--by shape|properties]',
  about: 'Designs that are alike by shape or by properties, the most alike first',
  async run(args, { connect, fromHere }): Promise<Answer> {
    const parsed = parseVerb(args, { by: { type: 'string' } }, { min: 1, max: 1 }, like.usage);
    const [of = ''] = parsed.positionals;
    const by = parsed.text('by') ?? 'shape';
    if (by !== 'shape' && by !== 'properties') throw new CliError(`--by ${by}: write shape or properties.`);
    const client = await connect();
    if (by === 'properties') return byProperties(await client.get('/api/like/properties', { item: of }));
    const file = /\.(stp|step|p21)$/i.test(of)
      ? await readFile(fromHere(of)).catch(() => undefined)
      : undefined;
    const { rows } = file
      ? await client.post('/api/like', {}, file)
      : await client.get('/api/like', { item: of });
    return {
      json: { rows },
      lines: table(
        rows.map(({ number, name, likeness }) => [
          `${Math.round(likeness.score * 100)} %`,
          number,
          name,
          `size ${percent(likeness.size)}, box ${percent(likeness.proportions)}, surface ${percent(likeness.surface)}, form ${percent(likeness.distances)}`,
        ]),
      ),
    };
  },
};

function byProperties({ of, rows }: LikePropertiesAnswer): Answer {
  return {
    json: { of, rows },
    lines: table(
      rows.map(({ number, name, score, properties }) => [
        `${percent(score)} %`,
        number,
        name,
        properties.map(({ shown }, at) => `${of[at]?.name} ${shown || '–'}`).join(', '),
      ]),
    ),
  };
}

const percent = (value: number): string => String(Math.round(value * 100));
