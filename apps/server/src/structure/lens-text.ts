import { lensParts, type LensText } from '@stem-trace/contract';
import type { Lens } from '@stem-trace/core';

/** A lens from its text; a day means its end, UTC. */
export function parseLens(text: LensText): Lens {
  const { versions, configuration } = lensParts(text);
  const within = configuration === undefined ? {} : { configuration };
  if (versions === 'recorded' || versions === 'newest' || versions === 'released')
    return { kind: versions, ...within };
  return { kind: 'date', atMs: Date.parse(`${versions}T23:59:59.999Z`), ...within };
}
