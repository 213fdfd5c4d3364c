/** Drawings as they are looked at: what is drawn, its extent, words, measures, and two states laid over each other. */
export type {
  Arc,
  Drawing,
  Extent,
  Fill,
  Layer,
  Lettering,
  LineLook,
  Mark,
  MarkLook,
  Opening,
  Sheet,
  Spot,
  Stroke,
  Undrawn,
} from './model.js';
export { around, cornersOf, extentOf, onArc, passes, widthOf } from './extent.js';
export { flat, gathered, overlayOf, type Overlay, type PlainMark } from './overlay.js';
export { onLayers, overlayDrawings, type SheetOverlay } from './overlay-drawings.js';
export { nearestOn, snapAt, type Snap } from './snap.js';
export { findWords, type FoundWords } from './words.js';
export { overlayPixels, type PixelOverlay, type Pixels } from './pixels.js';
export { scaleOf } from './scale.js';
