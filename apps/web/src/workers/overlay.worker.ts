/** Lays two states of a sheet, or of a whole drawing, over each other, away from the thread that answers to keys. */
import { overlayDrawings, overlayOf, type Drawing, type Sheet } from '@stem-trace/core/sheet';

export type OverlayAsked =
  | { readonly of: 'sheets'; readonly first: Sheet; readonly second: Sheet }
  | { readonly of: 'drawings'; readonly first: Drawing; readonly second: Drawing };

self.onmessage = ({ data }: MessageEvent<OverlayAsked>): void =>
  self.postMessage(
    data.of === 'sheets' ? overlayOf(data.first, data.second) : overlayDrawings(data.first, data.second),
  );
