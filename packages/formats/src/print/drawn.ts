/** What people drew on a sheet, as it is printed: a line with the number under which the list says more. */
import type { Spot } from '@stem-trace/core/sheet';
import { rgb, type PDFPage } from 'pdf-lib';
import type { Faces } from './faces.js';
import type { Pen } from './pen.js';

export interface PrintedMark {
  readonly number: number;
  readonly kind: 'pen' | 'line' | 'arrow' | 'cloud' | 'box' | 'text' | 'measure' | 'pin';
  readonly tone: 'change' | 'question' | 'note';
  readonly spots: readonly Spot[];
  readonly words: string;
  readonly isSettled: boolean;
}

const TONES = {
  change: [0.588, 0.278, 0.059],
  question: [0.404, 0.224, 0.612],
  note: [0.043, 0.31, 0.361],
} as const;
const WIDTH_PT = 1.4;
const SIGN_PT = 7;
const HEAD_PT = 9;
const BULGE_PT = 12;

export interface DrawnOptions {
  readonly pen: Pen;
  readonly page: PDFPage;
  readonly faces: Faces;
  /** Points for a unit. */
  readonly scale: number;
}

export function printMark(mark: PrintedMark, { pen, page, faces, scale }: DrawnOptions): void {
  const colour = TONES[mark.tone];
  const ink = rgb(colour[0], colour[1], colour[2]);
  const dashes = mark.isSettled ? [3, 3] : [];
  for (const line of linesOf(mark, scale)) pen.line(line, colour, WIDTH_PT, dashes);
  const [x, y] = pen.at(signSpot(mark));
  page.drawCircle({ x, y, size: SIGN_PT, color: ink });
  const says = String(mark.number);
  faces.draw(page, says, { x: x - faces.widthOf(says, 8) / 2, y: y - 3, size: 8, color: rgb(1, 1, 1) });
  const words = mark.words.replace(/\s+/g, ' ');
  const write = (left: number, bottom: number): unknown =>
    faces.draw(page, words, { x: left, y: bottom, size: 9, color: ink });
  if (mark.kind === 'text') write(x + SIGN_PT + 3, y - 3);
  if (mark.kind === 'measure') {
    // Above the middle of what was measured.
    const [from, to] = [pen.at(mark.spots[0] ?? [0, 0]), pen.at(mark.spots[1] ?? [0, 0])];
    write((from[0] + to[0]) / 2 - faces.widthOf(words, 9) / 2, (from[1] + to[1]) / 2 + 4);
  }
}

function signSpot({ kind, spots }: PrintedMark): Spot {
  const [first = [0, 0], second = first] = spots;
  if (kind === 'box' || kind === 'cloud')
    return [Math.min(first[0], second[0]), Math.max(first[1], second[1])];
  return kind === 'arrow' ? second : first;
}

/** Lines of a mark in units of the sheet. */
function linesOf({ kind, spots }: PrintedMark, scale: number): (readonly Spot[])[] {
  const [from = [0, 0], to = from] = spots;
  switch (kind) {
    case 'pen':
    case 'line':
      return [spots];
    case 'measure':
      return [[from, to], tick(from, to, scale), tick(to, from, scale)];
    case 'arrow': {
      const angle = Math.atan2(from[1] - to[1], from[0] - to[0]);
      const barb = (turn: number): Spot => [
        from[0] + (HEAD_PT / scale) * Math.cos(angle + turn),
        from[1] + (HEAD_PT / scale) * Math.sin(angle + turn),
      ];
      return [
        [to, from],
        [barb(2.7), from, barb(-2.7)],
      ];
    }
    case 'box':
      return [[from, [to[0], from[1]], to, [from[0], to[1]], from]];
    case 'cloud':
      return [cloud(from, to, scale)];
    case 'text':
    case 'pin':
      return [];
  }
}

function tick(at: Spot, other: Spot, scale: number): Spot[] {
  const angle = Math.atan2(other[1] - at[1], other[0] - at[0]) + Math.PI / 2;
  const [x, y] = [(4 / scale) * Math.cos(angle), (4 / scale) * Math.sin(angle)];
  return [
    [at[0] - x, at[1] - y],
    [at[0] + x, at[1] + y],
  ];
}

/** Bulges outwards along a box. */
function cloud(a: Spot, b: Spot, scale: number): Spot[] {
  const [left, right] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
  const [low, high] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
  const corners: readonly Spot[] = [
    [left, low],
    [right, low],
    [right, high],
    [left, high],
    [left, low],
  ];
  return corners.slice(1).flatMap((to, side) => {
    const from = corners[side] ?? to;
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    const count = Math.min(Math.max(1, Math.round((length * scale) / BULGE_PT)), 200);
    const [x, y] = [(to[0] - from[0]) / count, (to[1] - from[1]) / count];
    return Array.from({ length: count * 6 + 1 }, (_, at): Spot => {
      const [piece, part] = [at / 6, Math.sin((Math.PI * (at % 6)) / 6) * 0.4];
      // To the right of the way along is outwards.
      return [from[0] + x * piece + y * part, from[1] + y * piece - x * part];
    });
  });
}
