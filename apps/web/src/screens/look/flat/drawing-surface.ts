/** Drawings as surfaces of a board. */
import { extentOf, type Drawing, type Extent, type Overlay, type Sheet } from '@stem-trace/core/sheet';
import type { Surface } from '../../../pictures/board/board.js';
import { NOWHERE, SheetPainter } from '../../../pictures/board/sheet-painter.js';

/** What is only in the first, in copper, what is only in the second, in blue, and what both have, in grey. */
export const OVERLAID = { first: '#96470f', second: '#1b59b3', both: '#b4bcc0' } as const;

export function sheetSurface(sheet: Sheet, hidden: ReadonlySet<number>): Surface {
  const painter = new SheetPainter(sheet.marks, { hidden });
  return {
    extent: extentOf(sheet.marks) ?? NOWHERE,
    paint: (context, view, density) => painter.paint(context, view, density),
  };
}

export function overlaySurface(overlay: Overlay, extent: Extent): Surface {
  const painters = [
    new SheetPainter(overlay.both, { colour: OVERLAID.both }),
    new SheetPainter(overlay.onlyFirst, { colour: OVERLAID.first }),
    new SheetPainter(overlay.onlySecond, { colour: OVERLAID.second }),
  ];
  return {
    extent,
    paint: (context, view, density) => {
      for (const painter of painters) painter.paint(context, view, density);
    },
  };
}

/** Indexes of the layers that the file has switched off. */
export function layersOff({ layers }: Drawing): ReadonlySet<number> {
  return new Set(layers.flatMap(({ isOn }, index) => (isOn ? [] : index)));
}
