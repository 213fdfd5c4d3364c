/** Drawings of every version, written and drawn by an independent reader: we draw the same lines at the same places. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { extentOf, flat, type PlainMark } from '@stem-trace/core/sheet';
import { drawingOf } from '@stem-trace/formats/drawing';
import { afterAll, describe, expect, it } from 'vitest';

interface Said {
  readonly file: string;
  readonly kind: string;
  readonly version: string;
  readonly length: number;
  readonly low: readonly [number, number];
  readonly high: readonly [number, number];
  readonly texts: readonly string[];
}

const folder = mkdtempSync(join(tmpdir(), 'stem-trace-drawn-'));
const said = JSON.parse(
  execFileSync('/usr/bin/python3', [join(import.meta.dirname, 'drawn.py'), folder], {
    encoding: 'utf8',
    maxBuffer: 100e6,
  }),
) as Said[];
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Areas are outlined by one and filled by the other; bands are drawn as outlines; splines through points have ends of our own. */
const LENGTH_TOLERANCE: Readonly<Record<string, number>> = {
  ...{ hatches: Infinity, dimensions: 0.01, splines: 0.01 },
};
const BOX_TOLERANCE = 0.02;

describe('a drawing that others wrote', () => {
  it.each(said)('$kind, $version', ({ file, kind, length, low, high, texts }) => {
    const { sheets, layers, undrawn } = drawingOf(readFileSync(join(folder, file)));
    const isShown = (mark: PlainMark): boolean => {
      const layer = layers[mark.look.layer];
      return layer?.isOn === true && layer.name !== 'Defpoints';
    };
    const model = sheets.find(({ name }) => name === 'Model');
    const marks = [...flat(model?.marks ?? [])].filter(isShown);
    expect(undrawn).toEqual([]);
    const ours = marks.reduce((sum, mark) => sum + lengthOf(mark), 0);
    const tolerance = LENGTH_TOLERANCE[kind] ?? 0.003;
    if (tolerance < Infinity) expect(Math.abs(ours - length)).toBeLessThanOrEqual(tolerance * length);
    const extent = extentOf(marks.filter((mark) => mark.kind !== 'lettering')) ?? {
      low: [0, 0],
      high: [0, 0],
    };
    for (const [at, [a, b]] of [
      [extent.low, low],
      [extent.high, high],
    ].entries())
      for (const axis of [0, 1])
        expect(Math.abs((a?.[axis] ?? NaN) - (b?.[axis] ?? NaN)), `corner ${at}`).toBeLessThan(BOX_TOLERANCE);
    const words = marks.flatMap((mark) => (mark.kind === 'lettering' ? mark.lines : []));
    expect(wordsIn(words)).toEqual(wordsIn(texts));
  });
});

function lengthOf(mark: PlainMark): number {
  if (mark.kind === 'arc') return mark.radius * mark.sweep;
  if (mark.kind !== 'stroke') return 0;
  return mark.spots.reduce((sum, [x, y], at) => {
    const [x0, y0] = mark.spots[Math.max(at - 1, 0)] ?? [x, y];
    return sum + Math.hypot(x - x0, y - y0);
  }, 0);
}

/** One draws word by word, the other line by line; two signs stand for a diameter. */
function wordsIn(texts: readonly string[]): string[] {
  return texts.join(' ').replaceAll('Ø', '⌀').split(/\s+/).filter(Boolean).sort();
}
