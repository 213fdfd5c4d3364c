/** Pages and pictures laid over each other by their pixels: for what has no lines that could be told apart. */
import { gathered } from './overlay.js';
import type { Extent, Mark, Spot } from './model.js';

export interface Pixels {
  readonly width: number;
  readonly height: number;
  /** Red, green, blue, opacity; row by row from the top. */
  readonly data: Uint8ClampedArray;
}

export interface PixelOverlay {
  readonly pixels: Pixels;
  /** In pixels, y upwards from the lower edge; as one reads. */
  readonly places: readonly Extent[];
}

/** Darker than this, of 255, is ink. */
const INK = 200;
/** What is drawn again lies off by so many pixels at most. */
const JITTER = 1;
/** Differences are looked at by squares of so many pixels; fewer in one are dust. */
const SQUARE = 12;
const LEAST = 4;
const FIRST = [0x96, 0x47, 0x0f] as const;
const SECOND = [0x1b, 0x59, 0xb3] as const;
const BOTH = 0.55;

/** Only in the first copper, only in the second blue, what both have grey. `O(pixels)`. */
export function overlayPixels(first: Pixels, second: Pixels): PixelOverlay {
  const [width, height] = [Math.max(first.width, second.width), Math.max(first.height, second.height)];
  const size = { width, height };
  const [a, b] = [inkOf(first, size), inkOf(second, size)];
  const [nearA, nearB] = [thickened(a, size), thickened(b, size)];
  const data = new Uint8ClampedArray(width * height * 4).fill(255);
  const squares = new Uint32Array(Math.ceil(width / SQUARE) * Math.ceil(height / SQUARE));
  for (let at = 0; at < a.length; at++) {
    const [inFirst, inSecond] = [a[at] ?? 0, b[at] ?? 0];
    const onlyFirst = inFirst > 0 && nearB[at] === 0;
    const onlySecond = inSecond > 0 && nearA[at] === 0;
    const ink = Math.max(inFirst, inSecond) / 255;
    if (onlyFirst || onlySecond) {
      put(data, at, onlyFirst ? FIRST : SECOND, ink);
      const square =
        Math.floor(Math.floor(at / width) / SQUARE) * Math.ceil(width / SQUARE) +
        Math.floor((at % width) / SQUARE);
      squares[square] = (squares[square] ?? 0) + 1;
    } else if (ink > 0) put(data, at, [0x14, 0x19, 0x1c], ink * BOTH);
  }
  return { pixels: { width, height, data }, places: placesOf(squares, size) };
}

/** How dark each pixel is, where it is ink at all. */
function inkOf(
  { width, height, data }: Pixels,
  size: { readonly width: number; readonly height: number },
): Uint8Array {
  const ink = new Uint8Array(size.width * size.height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      const opaque = (data[at + 3] ?? 0) / 255;
      const light =
        (0.299 * (data[at] ?? 0) + 0.587 * (data[at + 1] ?? 0) + 0.114 * (data[at + 2] ?? 0)) * opaque +
        255 * (1 - opaque);
      if (light < INK) ink[y * size.width + x] = Math.max(1, Math.round(255 - light));
    }
  return ink;
}

/** Ink with all that lies beside it. */
function thickened(
  ink: Uint8Array,
  { width, height }: { readonly width: number; readonly height: number },
): Uint8Array {
  const thick = new Uint8Array(ink.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (ink[y * width + x] === 0) continue;
      for (let dy = Math.max(-JITTER, -y); dy <= Math.min(JITTER, height - 1 - y); dy++)
        for (let dx = Math.max(-JITTER, -x); dx <= Math.min(JITTER, width - 1 - x); dx++)
          thick[(y + dy) * width + x + dx] = 1;
    }
  return thick;
}

function put(
  data: Uint8ClampedArray,
  at: number,
  [red, green, blue]: readonly [number, number, number],
  ink: number,
): void {
  data[at * 4] = 255 - (255 - red) * ink;
  data[at * 4 + 1] = 255 - (255 - green) * ink;
  data[at * 4 + 2] = 255 - (255 - blue) * ink;
}

function placesOf(
  squares: Uint32Array,
  { width, height }: { readonly width: number; readonly height: number },
): Extent[] {
  const across = Math.ceil(width / SQUARE);
  const boxes: Mark[] = [];
  squares.forEach((count, square) => {
    if (count < LEAST) return;
    const [x, y] = [(square % across) * SQUARE, height - Math.floor(square / across) * SQUARE];
    const corners: Spot[] = [
      [x, y],
      [x + SQUARE, y - SQUARE],
    ];
    boxes.push({
      kind: 'stroke',
      look: { layer: 0, colour: null, weightMm: 0, dashes: [], width: 0 },
      spots: corners,
    });
  });
  return gathered(boxes, SQUARE);
}
