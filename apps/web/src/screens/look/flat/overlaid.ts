import type { Extent, PixelOverlay, Pixels } from '@stem-trace/core/sheet';
import type { PDFPageProxy } from 'pdfjs-dist';
import type { Surface } from '../../../pictures/board/board.js';
import { comparedPixels, imagePixels, overlaidSurface, pagePixels, type Sized } from './bitmap-surface.js';

export interface OverlaidSurface {
  readonly surface: Surface;
  readonly places: readonly Extent[];
}

export async function overlaidPages(
  first: PDFPageProxy | undefined,
  second: PDFPageProxy | undefined,
): Promise<OverlaidSurface> {
  if (!first || !second) throw new Error('there is nothing to lay over');
  return laidOver(await pagePixels(first), await pagePixels(second), second.getViewport({ scale: 1 }));
}

export async function overlaidImages(
  first: ImageBitmap | undefined,
  second: ImageBitmap | undefined,
): Promise<OverlaidSurface> {
  if (!first || !second) throw new Error('there is nothing to lay over');
  return laidOver(imagePixels(first), imagePixels(second), second);
}

/** @param size of what the places are told of */
async function laidOver(first: Pixels, second: Pixels, size: Sized): Promise<OverlaidSurface> {
  const pixels = await comparedPixels(first, second);
  return { surface: await overlaidSurface(pixels, size), places: scaledPlaces(pixels, size) };
}

function scaledPlaces({ pixels, places }: PixelOverlay, { width, height }: Sized): Extent[] {
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
