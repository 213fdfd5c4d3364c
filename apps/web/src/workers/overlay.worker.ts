/** Compares two states of a sheet away from the thread that answers to keys. */
import { overlayOf, type Sheet } from '@stem-trace/core/sheet';

export interface OverlayAsked {
  readonly first: Sheet;
  readonly second: Sheet;
}

self.onmessage = ({ data: { first, second } }: MessageEvent<OverlayAsked>): void =>
  self.postMessage(overlayOf(first, second));
