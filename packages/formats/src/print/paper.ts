import type { Extent } from '@stem-trace/core/sheet';

/** Width and height in mm, upright (ISO 216, series A). */
const SIZES = [
  ['A4', 210, 297],
  ['A3', 297, 420],
  ['A2', 420, 594],
  ['A1', 594, 841],
  ['A0', 841, 1189],
] as const;
/** What hangs over by less is not cut off by anybody's eye. */
const SLACK_MM = 0.5;
/** Where nothing is to scale: the paper that it is fitted to, and its border. */
const FITTED = { width: 420, height: 297, border: 10 } as const;

export interface Paper {
  readonly name: string;
  readonly widthMm: number;
  readonly heightMm: number;
  /** Millimetres on paper for a unit of what is printed. */
  readonly mmPerUnit: number;
  readonly isToScale: boolean;
}

/**
 * The smallest paper of series A that holds an extent at a scale.
 *
 * @param unitMm millimetres of a unit
 * @param scale paper by what is drawn, 0.1 for 1:10; undefined for 1:1 where that fits, else as large as A3 has room for
 * @returns undefined where it does not fit the largest paper at the scale that is asked for
 */
export function paperFor(extent: Extent, unitMm: number, scale?: number): Paper | undefined {
  const [wide, tall] = [extent.high[0] - extent.low[0], extent.high[1] - extent.low[1]];
  const mmPerUnit = unitMm * (scale ?? 1);
  for (const [name, short, long] of SIZES)
    for (const [widthMm, heightMm] of wide >= tall ? [[long, short]] : [[short, long]])
      if (widthMm !== undefined && heightMm !== undefined)
        if (wide * mmPerUnit <= widthMm + SLACK_MM && tall * mmPerUnit <= heightMm + SLACK_MM)
          return { name, widthMm, heightMm, mmPerUnit, isToScale: true };
  if (scale !== undefined) return undefined;
  const [widthMm, heightMm] = wide >= tall ? [FITTED.width, FITTED.height] : [FITTED.height, FITTED.width];
  const fit = Math.min((widthMm - 2 * FITTED.border) / wide, (heightMm - 2 * FITTED.border) / tall);
  return { name: 'A3', widthMm, heightMm, mmPerUnit: fit, isToScale: false };
}
