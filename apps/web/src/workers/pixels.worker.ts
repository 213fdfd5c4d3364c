/** Compares two pages or pictures by their pixels, away from the thread that answers to keys. */
import { overlayPixels, type Pixels } from '@stem-trace/core/sheet';

self.onmessage = ({
  data: { first, second },
}: MessageEvent<{ readonly first: Pixels; readonly second: Pixels }>): void => {
  const overlay = overlayPixels(first, second);
  self.postMessage(overlay, { transfer: [overlay.pixels.data.buffer] });
};
