import { readFile } from 'node:fs/promises';
import type { LikeAnswer } from '@stem-trace/contract';
import { fromHere, parseVerb } from '../arguments.js';
import { table, type Answer, type Verb } from './verb.js';

export const like: Verb = {
  usage: 'like NUMBER|FILE.stp',
  about: 'Parts of a similar shape, the most alike first',
  async run(args, connect): Promise<Answer> {
    const parsed = parseVerb(args, {}, { min: 1, max: 1 }, like.usage);
    const [of = ''] = parsed.positionals;
    const client = await connect();
    const file = /\.(stp|step|p21)$/i.test(of)
      ? await readFile(fromHere(of)).catch(() => undefined)
      : undefined;
    const { rows } = file
      ? await client.post<LikeAnswer>('/api/like', {}, file)
      : await client.get<LikeAnswer>('/api/like', { item: of });
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

const percent = (value: number): string => String(Math.round(value * 100));
