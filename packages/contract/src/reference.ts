import { VERSION_ENDING } from '@stem-trace/core';

/** An item by its number, or one version of it: `FM-1000`, `FM-1000@B/3`. */
export interface ItemReference {
  readonly number: string;
  readonly version?: string;
}

/** Splits at the last `@` where what follows is a version; elsewhere `@` is part of the number. */
export function parseReference(text: string): ItemReference {
  const trimmed = text.trim();
  const match = VERSION_ENDING.exec(trimmed);
  const version = match?.[1];
  return version === undefined || match?.index === 0
    ? { number: trimmed }
    : { number: trimmed.slice(0, match?.index), version };
}

export function formatReference({ number, version }: ItemReference): string {
  return version === undefined ? number : `${number}@${version}`;
}

/** Lens as written in addresses and on the command line: a word, or a date such as `2026-03-31`. */
export type LensText = string;

/** `recorded`, `newest`, `released`, or a day such as `2026-03-31`. */
export function isLensText(text: string): boolean {
  return /^(recorded|newest|released)$/.test(text) || isDay(text);
}

/** Whether a text is a day that exists, as ISO 8601 writes it: `2026-02-31` does not. */
export function isDay(text: string): boolean {
  const time = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(text) : NaN;
  return !Number.isNaN(time) && new Date(time).toISOString().startsWith(text);
}
