import type { Mark } from './model.js';
import { flat } from './overlay.js';

/** Names of the field in which title blocks give the scale. */
const SCALE_TAG = /^(scale|ma(ß|ss)stab|[eé]chelle|escala|scala|schaal)\b/i;
/** `1:5`, `2 : 1`, `1/20` (ISO 5455, clause 3). */
const RATIO = /(\d+(?:[.,]\d+)?)\s*[:/]\s*(\d+(?:[.,]\d+)?)/;

/**
 * How much larger than on the sheet everything is, as the title block says it: 5 for `1:5`.
 *
 * @returns undefined where no field says it, or it says no ratio
 */
export function scaleOf(
  marks: Iterable<Mark>,
): { readonly factor: number; readonly says: string } | undefined {
  for (const mark of flat(marks)) {
    if (mark.kind !== 'lettering' || !SCALE_TAG.test(mark.tag)) continue;
    const [, sheet, real] = RATIO.exec(mark.lines.join(' ')) ?? [];
    const factor = Number(real?.replace(',', '.')) / Number(sheet?.replace(',', '.'));
    if (Number.isFinite(factor) && factor > 0) return { factor, says: `${sheet}:${real}` };
  }
  return undefined;
}
