/** Directions from which one looks; the design has z up. */
export const VIEWS = {
  front: { from: [0, -1, 0], up: [0, 0, 1], says: 'from the front' },
  back: { from: [0, 1, 0], up: [0, 0, 1], says: 'from behind' },
  left: { from: [-1, 0, 0], up: [0, 0, 1], says: 'from the left' },
  right: { from: [1, 0, 0], up: [0, 0, 1], says: 'from the right' },
  top: { from: [0, 0, 1], up: [0, 1, 0], says: 'from above' },
  below: { from: [0, 0, -1], up: [0, 1, 0], says: 'from below' },
  corner: { from: [1, -1.1, 0.7], up: [0, 0, 1], says: 'from a corner' },
} as const;
export type ViewName = keyof typeof VIEWS;

/** In the order of their keys, 1 to 7. */
export const VIEW_NAMES = Object.keys(VIEWS) as readonly ViewName[];
