/** Pages and pictures as surfaces of a board. */
import type { PixelOverlay, Pixels } from '@stem-trace/core/sheet';
import type { PDFPageProxy } from 'pdfjs-dist';
import type { Surface } from '../../../pictures/board/board.js';
import { toScreen } from '../../../pictures/board/view.js';

/** Side of what is drawn at once; larger is magnified. */
const MOST_PX = 4096;
/** Longer side of what is compared by pixels. */
const COMPARED_PX = 2000;
/** A page is drawn anew where it is wanted larger by as much. */
const FINER = 1.5;

export interface Sized {
  readonly width: number;
  readonly height: number;
}

/** What a page lies on. */
const AROUND = '#d9dfe2';

type Source = ImageBitmap | HTMLCanvasElement;

export function bitmapSurface(source: Source, { width, height }: Sized = source): Surface {
  return {
    extent: { low: [0, 0], high: [width, height] },
    paint: (context, view) => {
      const [x, y] = toScreen(view, [0, height]);
      context.fillStyle = AROUND;
      context.fillRect(0, 0, ...view.size);
      context.fillStyle = '#ffffff';
      context.fillRect(x, y, width * view.scale, height * view.scale);
      context.imageSmoothingEnabled = view.scale * width < source.width * 4;
      context.drawImage(source, x, y, width * view.scale, height * view.scale);
    },
  };
}

/** A page in points, y upwards; it is drawn finer as it is magnified. */
export function pageSurface(page: PDFPageProxy): Surface & { end(): void } {
  const { width, height } = page.getViewport({ scale: 1 });
  const listeners = new Set<() => void>();
  let drawn: { readonly scale: number; readonly canvas: HTMLCanvasElement } | undefined;
  let underWay: { readonly scale: number; readonly cancel: () => void } | undefined;
  const draw = (scale: number): void => {
    if (underWay && underWay.scale >= scale) return;
    underWay?.cancel();
    const { canvas, task } = begin(page, scale);
    underWay = { scale, cancel: () => task.cancel() };
    task.promise.then(
      () => {
        drawn = { scale, canvas };
        underWay = undefined;
        for (const listener of listeners) listener();
      },
      () => undefined,
    );
  };
  return {
    extent: { low: [0, 0], high: [width, height] },
    paint: (context, view, density) => {
      const most = MOST_PX / Math.max(width, height);
      const wanted = Math.min(view.scale * density, most);
      if (!drawn || wanted > drawn.scale) draw(Math.min(wanted * FINER, most));
      if (drawn) bitmapSurface(drawn.canvas, { width, height }).paint(context, view, density);
    },
    onReady: (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    end: () => underWay?.cancel(),
  };
}

function begin(page: PDFPageProxy, scale: number) {
  const viewport = page.getViewport({ scale });
  const canvas = document.createElement('canvas');
  canvas.width = Math.ceil(viewport.width);
  canvas.height = Math.ceil(viewport.height);
  return { canvas, task: page.render({ canvas, viewport }) };
}

/** A page as pixels, to be compared. */
export async function pagePixels(page: PDFPageProxy): Promise<Pixels> {
  const { width, height } = page.getViewport({ scale: 1 });
  const { canvas, task } = begin(page, COMPARED_PX / Math.max(width, height));
  await task.promise;
  return pixelsOf(canvas, canvas);
}

export function imagePixels(image: ImageBitmap): Pixels {
  const scale = Math.min(1, COMPARED_PX / Math.max(image.width, image.height));
  return pixelsOf(image, {
    width: Math.max(1, Math.round(image.width * scale)),
    height: Math.max(1, Math.round(image.height * scale)),
  });
}

function pixelsOf(source: Source, { width, height }: Sized): Pixels {
  const canvas = document.createElement('canvas');
  canvas.width = width;
  canvas.height = height;
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('this browser gives no room to draw in');
  context.drawImage(source, 0, 0, width, height);
  return { width, height, data: context.getImageData(0, 0, width, height).data };
}

/** As a worker works it out. */
export async function comparedPixels(first: Pixels, second: Pixels): Promise<PixelOverlay> {
  const worker = new Worker(new URL('../../../workers/pixels.worker.ts', import.meta.url), {
    type: 'module',
  });
  try {
    return await new Promise<PixelOverlay>((done, fail) => {
      worker.onmessage = ({ data }: MessageEvent<PixelOverlay>) => done(data);
      worker.onerror = (event) => fail(new Error(event.message));
      worker.postMessage({ first, second });
    });
  } finally {
    worker.terminate();
  }
}

/** What was compared, at the size of what it was compared from. */
export async function overlaidSurface({ pixels }: PixelOverlay, size: Sized): Promise<Surface> {
  const data = new ImageData(new Uint8ClampedArray(pixels.data), pixels.width, pixels.height);
  return bitmapSurface(await createImageBitmap(data), size);
}
