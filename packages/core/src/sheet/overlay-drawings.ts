/** Two states of a whole drawing laid over each other, sheet by sheet. */
import { overlayOf, type Overlay } from './overlay.js';
import type { Drawing, Mark, Sheet } from './model.js';

export interface SheetOverlay {
  readonly name: string;
  readonly overlay: Overlay;
  /** Where only one of both has this sheet. */
  readonly onlyIn: 'first' | 'second' | null;
}

/**
 * Sheets of one name are one sheet; where each has a single one, those are, whatever they are called. What lies on layers that are off is
 * left out, by the layers of the drawing that it is of. Where a drawing has paper of its own, the model by itself is no sheet.
 *
 * @returns in the order of the second, then what only the first has. `O(n log n)` in the marks of both
 */
export function overlayDrawings(first: Drawing, second: Drawing): readonly SheetOverlay[] {
  const [before, after] = [shown(first), shown(second)];
  const [single, other] = [before[0], after[0]];
  if (before.length === 1 && after.length === 1 && single && other)
    return [{ name: other.name, overlay: overlayOf(single, other), onlyIn: null }];
  const byName = new Map(before.map((sheet) => [sheet.name, sheet]));
  const theirs = new Set(after.map(({ name }) => name));
  return [
    ...after.map((sheet): SheetOverlay => {
      const found = byName.get(sheet.name);
      return {
        name: sheet.name,
        overlay: overlayOf(found ?? { ...sheet, marks: [] }, sheet),
        onlyIn: found ? null : 'second',
      };
    }),
    ...before
      .filter(({ name }) => !theirs.has(name))
      .map((sheet): SheetOverlay => ({
        name: sheet.name,
        overlay: overlayOf(sheet, { ...sheet, marks: [] }),
        onlyIn: 'first',
      })),
  ];
}

function shown({ sheets, layers }: Drawing): readonly Sheet[] {
  const papers = sheets.filter(({ paperMm }) => paperMm !== null);
  const isOn = (layer: number): boolean => layers[layer]?.isOn ?? true;
  return (papers.length > 0 ? papers : sheets).map((sheet) => ({
    ...sheet,
    marks: onLayers(sheet.marks, isOn),
  }));
}

/** Marks on layers that are wanted, also those that are seen through openings. `O(n)` */
export function onLayers(marks: readonly Mark[], isWanted: (layer: number) => boolean): Mark[] {
  return marks.flatMap((mark): Mark[] => {
    if (mark.kind === 'opening') return [{ ...mark, marks: onLayers(mark.marks, isWanted) }];
    return isWanted(mark.look.layer) ? [mark] : [];
  });
}
