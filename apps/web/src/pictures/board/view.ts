/** What of a flat picture is seen: y runs upwards in the picture, downwards on the screen. */
import type { Extent, Spot } from '@stem-trace/core/sheet';

export interface View {
  /** Screen pixels for a unit of the picture. */
  readonly scale: number;
  /** Spot of the picture in the middle of the screen. */
  readonly middle: Spot;
  /** Of the screen, in pixels. */
  readonly size: readonly [width: number, height: number];
}

const MOST = 1e7;

export function toScreen({ scale, middle, size }: View, [x, y]: Spot): Spot {
  return [size[0] / 2 + (x - middle[0]) * scale, size[1] / 2 - (y - middle[1]) * scale];
}

export function toPicture({ scale, middle, size }: View, [x, y]: Spot): Spot {
  return [middle[0] + (x - size[0] / 2) / scale, middle[1] - (y - size[1] / 2) / scale];
}

/** All of an extent, with some room around it. */
export function fitted({ low, high }: Extent, size: View['size'], room = 0.96): View {
  const [wide, tall] = [Math.max(high[0] - low[0], 1e-9), Math.max(high[1] - low[1], 1e-9)];
  const scale = Math.min(size[0] / wide, size[1] / tall) * room;
  return { scale, middle: [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2], size };
}

/** Larger or smaller; what is at a place of the screen stays there. */
export function magnified(view: View, by: number, at: Spot = [view.size[0] / 2, view.size[1] / 2]): View {
  const scale = Math.min(Math.max(view.scale * by, 1 / MOST), MOST);
  const [x, y] = toPicture(view, at);
  const [nextX, nextY] = toPicture({ ...view, scale }, at);
  return { ...view, scale, middle: [view.middle[0] + x - nextX, view.middle[1] + y - nextY] };
}

/** By pixels of the screen. */
export function moved(view: View, right: number, down: number): View {
  const { scale, middle } = view;
  return { ...view, middle: [middle[0] - right / scale, middle[1] + down / scale] };
}

/** The same place in a screen of another size. */
export function resized(view: View, size: View['size']): View {
  return { ...view, size };
}
