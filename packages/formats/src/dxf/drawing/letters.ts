/** Entities of lettering: single lines, paragraphs, fields of a title block, tolerances. */
import type { LineLook, Mark, Spot, Lettering } from '@stem-trace/core/sheet';
import { first, numberOf, pointOf, textOf, type Entity, type Triple } from '../entities.js';
import { severalLines, singleLine } from './lettering.js';
import { lettering } from './marks.js';
import { placed, planeOf, put, spotOf, type Placed, type Placing } from './placing.js';

const DEGREE = Math.PI / 180;
/** Height of a tolerance's letters where the file does not say. */
const TOLERANCE_MM = 2.5;

/** Where lettering comes to lie: turned and stretched as its plane is. */
function laid(
  plane: Placing,
  at: Triple,
  turn: number,
  height: number,
): Pick<Lettering, 'at' | 'turn' | 'height' | 'stretch'> {
  const tip = (x: number, y: number): Spot => {
    const [from, to] = [put(plane, [0, 0, 0]), put(plane, [x, y, 0])];
    return [to[0] - from[0], to[1] - from[1]];
  };
  const along = tip(Math.cos(turn), Math.sin(turn));
  const upwards = tip(-Math.sin(turn), Math.cos(turn));
  const [wide, tall] = [Math.hypot(...along), Math.hypot(...upwards)];
  return {
    at: spotOf(plane, at),
    // Letters are never drawn mirrored: they are there to be read.
    turn: Math.atan2(along[1], along[0]),
    height: height * tall,
    stretch: tall > 0 ? wide / tall : 1,
  };
}

const ACROSS = ['left', 'middle', 'right', 'left', 'middle', 'left'] as const;
const UP = ['base', 'bottom', 'middle', 'top'] as const;

export function text(entity: Entity, { placing }: Placed, look: LineLook, said = textOf(entity, 1)): Mark[] {
  const line = singleLine(said);
  if (line.trim() === '') return [];
  const plane = placed(placing, planeOf(entity));
  const across = numberOf(entity, 72);
  const up = numberOf(entity, entity.type === 'ATTRIB' || entity.type === 'ATTDEF' ? 74 : 73);
  // Aligned and fitted texts run from the first point to the second; all others that are not plain stand at the second.
  const isBetween = across === 3 || across === 5;
  const isSecond = !isBetween && (across !== 0 || up !== 0) && first(entity, 11) !== undefined;
  const [from, to] = [pointOf(entity, 10), pointOf(entity, 11)];
  const turn = isBetween ? Math.atan2(to[1] - from[1], to[0] - from[0]) : numberOf(entity, 50) * DEGREE;
  const place = laid(plane, isSecond ? to : from, turn, numberOf(entity, 40, 1));
  const stretch = numberOf(entity, 41, 1) || 1;
  return [
    lettering(look, {
      ...{ ...place, stretch: place.stretch * stretch, lines: [line] },
      ...{ across: ACROSS[across] ?? 'left', up: across === 4 ? 'middle' : (UP[up] ?? 'base') },
      tag: entity.type === 'ATTRIB' ? textOf(entity, 2) : '',
    }),
  ];
}

export function attribute(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const embedded = entity.tags.findIndex(({ code }) => code === 101);
  if (embedded < 0) return text(entity, { placing }, look);
  // A field of several lines holds a paragraph that is drawn instead of it.
  const tag = textOf(entity, 2);
  const inner: Entity = { type: 'MTEXT', tags: entity.tags.slice(embedded + 1) };
  return paragraph(inner, { placing }, look).map((mark) =>
    mark.kind === 'lettering' ? { ...mark, tag } : mark,
  );
}

/** What a block says the same at each place; fields are said by the insertion. */
export function constantText(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  return (numberOf(entity, 70) & 3) === 2 ? text(entity, { placing }, look) : [];
}

/** Attachment points are numbered as one reads: 1 is above on the left, 9 below on the right. */
export function paragraph(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const said = entity.tags.flatMap(({ code, value }) => (code === 3 || code === 1 ? [value] : [])).join('');
  const height = numberOf(entity, 40, 1);
  const lines = severalLines(said, height, numberOf(entity, 41));
  if (lines.every((each) => each.trim() === '')) return [];
  const point = Math.min(Math.max(Math.trunc(numberOf(entity, 71, 1)), 1), 9) - 1;
  const along = pointOf(entity, 11);
  const turn = first(entity, 11) ? Math.atan2(along[1], along[0]) : numberOf(entity, 50) * DEGREE;
  const flatPlane = first(entity, 11) ? placing : placed(placing, planeOf(entity));
  const place = laid(flatPlane, pointOf(entity, 10), turn, height);
  return [
    lettering(look, {
      ...{ ...place, lines, lineStep: place.height * (5 / 3) * (numberOf(entity, 44, 1) || 1) },
      across: (['left', 'middle', 'right'] as const)[point % 3] ?? 'left',
      up: (['top', 'middle', 'bottom'] as const)[Math.floor(point / 3)] ?? 'top',
    }),
  ];
}

/** What a geometrical tolerance says, its compartments apart (DXF reference, TOLERANCE). */
export function tolerance(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const said = textOf(entity, 1)
    .replace(/\{\\F?gdt;([a-z])\}/gi, (_, sign: string) => TOLERANCE_SIGNS[sign.toLowerCase()] ?? sign)
    .replace(/%%v/g, ' | ');
  const along = pointOf(entity, 11);
  const place = laid(
    placing,
    pointOf(entity, 10),
    Math.atan2(along[1], along[0]),
    numberOf(entity, 40, TOLERANCE_MM),
  );
  const lines = severalLines(said.replaceAll('^J', '\\P'), place.height, 0).map((each) =>
    each.replace(/^ \| | \| $/g, ''),
  );
  return lines.some((each) => each.trim() !== '') ? [lettering(look, { ...place, up: 'middle', lines })] : [];
}

/** Letters by which the format's own font draws the signs of ISO 1101. */
const TOLERANCE_SIGNS: Readonly<Record<string, string>> = {
  ...{ a: '∠', b: '⊥', c: '⏥', d: '⌓', e: '○', f: '∥', g: '⌭', h: '↗', i: '⌯', j: '⌖', k: '⌒' },
  ...{ l: 'Ⓛ', m: 'Ⓜ', n: '⌀', p: 'Ⓟ', r: '◎', s: 'Ⓢ', t: '⌰', u: '⏤' },
};
