import type { LensText } from '@stem-trace/contract';
import type { Lens } from '@stem-trace/core';

/** A lens from its text; a day means its end, UTC. */
export function parseLens(text: LensText): Lens {
  if (text === 'recorded' || text === 'newest' || text === 'released') return { kind: text };
  return { kind: 'date', atMs: Date.parse(`${text}T23:59:59.999Z`) };
}
