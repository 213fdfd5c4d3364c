/** Leaders with their text in one entity: its context says where lines run and what stands at their end (DXF reference, MLEADER). */
import type { LineLook, Mark, Spot } from '@stem-trace/core/sheet';
import type { Entity, Triple } from '../entities.js';
import { arrow, lettering, line } from './marks.js';
import { severalLines } from './lettering.js';
import { spotOf, type Placing } from './placing.js';

interface Said {
  readonly lines: Triple[][];
  readonly landings: Triple[];
  text: string;
  textAt: Triple | undefined;
  textHeight: number;
  turn: number;
  arrowSize: number;
}

/** Groups mean something else in each part of the context, which are opened and closed by braces. */
export function multileader(entity: Entity, placing: Placing, look: LineLook): Mark[] {
  const said = read(entity);
  const marks: Mark[] = [];
  said.lines.forEach((points, at) => {
    const end = said.landings[at] ?? said.landings.at(-1);
    const spots = [...points, ...(end ? [end] : [])].map((point) => spotOf(placing, point));
    if (spots.length < 2) return;
    marks.push(line(look, spots), arrow(look, spots, said.arrowSize || 2.5));
  });
  if (said.text !== '' && said.textAt) {
    const at: Spot = spotOf(placing, said.textAt);
    const lines = severalLines(said.text, said.textHeight, 0);
    marks.push(lettering(look, { at, height: said.textHeight, lines, turn: said.turn, up: 'top' }));
  }
  return marks;
}

function read({ tags }: Entity): Said {
  const said: Said = {
    ...{ lines: [], landings: [], text: '', textAt: undefined, textHeight: 2.5, turn: 0, arrowSize: 0 },
  };
  const open: string[] = [];
  let last: number[] | undefined;
  for (const { code, value } of tags) {
    const number = Number(value);
    const part = open.at(-1) ?? '';
    const trimmed = value.trim();
    if (code >= 300 && code <= 309 && trimmed.endsWith('{')) open.push(trimmed.slice(0, -1));
    else if (code >= 300 && code <= 309 && trimmed === '}') open.pop();
    else if (code === 10 || (code === 12 && part === 'CONTEXT_DATA')) {
      last = [number, 0, 0];
      const point = last as unknown as Triple;
      if (part === 'LEADER_LINE') {
        if (said.lines.length === 0) said.lines.push([]);
        said.lines.at(-1)?.push(point);
      } else if (part === 'LEADER') {
        said.landings.push(point);
      } else if (part === 'CONTEXT_DATA' && code === 12) said.textAt = point;
    } else if (last && (code === 20 || (code === 22 && part === 'CONTEXT_DATA'))) last[1] = number;
    else if (code === 304 && part === 'CONTEXT_DATA') said.text = value;
    else if (code === 41 && part === 'CONTEXT_DATA') said.textHeight = number > 0 ? number : said.textHeight;
    else if (code === 140 && part === 'CONTEXT_DATA') said.arrowSize = number;
    else if (code === 42 && part === 'CONTEXT_DATA') said.turn = Number.isFinite(number) ? number : 0;
    if (open.at(-1) === 'LEADER_LINE' && trimmed === 'LEADER_LINE{') said.lines.push([]);
  }
  return said;
}
