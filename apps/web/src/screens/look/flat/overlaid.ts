import type { Extent, PixelOverlay } from '@stem-trace/core/sheet';
import type { Surface } from '../../../pictures/board/board.js';
import type { Sized } from './bitmap-surface.js';

export interface OverlaidSurface {
  readonly surface: Surface;
  readonly places: readonly Extent[];
}

/** Places in units of what was compared. */
export function scaledPlaces({ pixels, places }: PixelOverlay, { width, height }: Sized): Extent[] {
  const [across, up] = [width / pixels.width, height / pixels.height];
  return places.map(({ low, high }) => ({
    low: [low[0] * across, low[1] * up],
    high: [high[0] * across, high[1] * up],
  }));
}

export function sayPlaces(places: readonly Extent[] | undefined, trouble: Error | null): string {
  if (trouble) return `The other version cannot be shown: ${trouble.message}.`;
  if (!places) return '';
  if (places.length === 0) return 'Both show the same.';
  return `They differ at ${places.length} ${places.length === 1 ? 'place' : 'places'}.`;
}
