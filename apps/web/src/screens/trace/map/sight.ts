/** What of a map lies in sight or near it; only that is given to the canvas, however large the map is. */
import type { Size } from './blocks.js';
import { boxesOf, type Box, type DrawnLine, type Drawing } from './drawing.js';

/** How the canvas looks at the map: where its corner is, in pixels of the page, and how much is enlarged. */
export interface Look {
  readonly x: number;
  readonly y: number;
  readonly zoom: number;
}

/** Part of the map that a canvas of this size shows. */
export function seenBy({ x, y, zoom }: Look, { widthPx, heightPx }: Size): Box {
  return { x: -x / zoom, y: -y / zoom, widthPx: widthPx / zoom, heightPx: heightPx / zoom };
}

/** As much again around it, so that it serves for a while as one moves on. */
export function widened({ x, y, widthPx, heightPx }: Box): Box {
  return { x: x - widthPx / 2, y: y - heightPx / 2, widthPx: 2 * widthPx, heightPx: 2 * heightPx };
}

/** Whether what is widened still serves: it holds what is seen, and is not much more. */
export function serves(outer: Box, seen: Box): boolean {
  return isWithin(seen, outer) && outer.widthPx <= 4 * seen.widthPx;
}

export interface Part {
  /** Ids of plates and frames that are needed: those near, and those at the ends of lines. */
  readonly ids: ReadonlySet<string>;
  readonly lines: readonly DrawnLine[];
}

/** What of a drawing meets a part of the map. O(plates + lines). */
export function partIn(drawing: Drawing, sight: Box): Part {
  const boxes = boxesOf(drawing);
  const ids = new Set<string>();
  for (const [id, box] of boxes) if (overlap(box, sight)) ids.add(id);
  const near = drawing.lines.filter(({ from, to }) => {
    const [a, b] = [boxes.get(from), boxes.get(to)];
    return a !== undefined && b !== undefined && overlap(between(a, b), sight);
  });
  for (const { from, to } of near) ids.add(from).add(to);
  return { ids, lines: near };
}

/** The smallest box around two. */
function between(a: Box, b: Box): Box {
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)];
  return {
    x,
    y,
    widthPx: Math.max(a.x + a.widthPx, b.x + b.widthPx) - x,
    heightPx: Math.max(a.y + a.heightPx, b.y + b.heightPx) - y,
  };
}

export function overlap(a: Box, b: Box): boolean {
  return a.x < b.x + b.widthPx && b.x < a.x + a.widthPx && a.y < b.y + b.heightPx && b.y < a.y + a.heightPx;
}

export function isWithin(inner: Box, outer: Box): boolean {
  return (
    inner.x >= outer.x &&
    inner.y >= outer.y &&
    inner.x + inner.widthPx <= outer.x + outer.widthPx &&
    inner.y + inner.heightPx <= outer.y + outer.heightPx
  );
}
