import { isDay, MOST_SERIAL, validateNumber, VERSION_ENDING, type EffectiveAt } from '@stem-trace/core';

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

/**
 * Lens as written in addresses and on the command line: a word, a date such as `2026-03-31`, `baseline 17` for what a
 * release froze, `effective 2026-03-31` or `effective 120 of FM-1000` for what is built on a day or in one piece of a product, and
 * where one configuration is looked at its name, `newest in With heating`.
 */
export type LensText = string;

export interface LensParts {
  /** `recorded`, `newest`, `released`, a day, `baseline` and its id, or `effective` and what is looked at. */
  readonly versions: string;
  readonly configuration?: string;
}

/** Splits at the first ` in `; what follows is the name of a configuration, which may hold anything. */
export function lensParts(text: LensText): LensParts {
  const at = text.indexOf(' in ');
  return at < 0 ? { versions: text } : { versions: text.slice(0, at), configuration: text.slice(at + 4) };
}

export function lensText({ versions, configuration }: LensParts): LensText {
  return configuration === undefined ? versions : `${versions} in ${configuration}`;
}

const LONGEST_CONFIGURATION = 120;

/** The id of the baseline that a lens looks at. */
export function baselineIn(text: LensText): string | undefined {
  return /^baseline ([1-9]\d{0,17})$/.exec(lensParts(text).versions)?.[1];
}

/** The lens that looks at a baseline. */
export function baselineLens(id: string): string {
  return `baseline ${id}`;
}

/** What a lens of what is in effect looks at; undefined for any other. */
export function effectiveIn(text: LensText): EffectiveAt | undefined {
  const said = /^effective (.*)$/su.exec(lensParts(text).versions)?.[1];
  if (said === undefined) return undefined;
  if (isDay(said)) return { kind: 'day', day: said };
  const [, serial, product = ''] = /^(\d{1,9}) of (.*)$/su.exec(said) ?? [];
  if (serial === undefined || Number(serial) > MOST_SERIAL || validateNumber(product) !== undefined)
    return undefined;
  return { kind: 'serial', product, serial: Number(serial) };
}

/** As `effectiveIn` reads it. */
export function effectiveLens(at: EffectiveAt): string {
  return at.kind === 'day' ? `effective ${at.day}` : `effective ${at.serial} of ${at.product}`;
}

/**
 * `recorded`, `newest`, `released`, a day such as `2026-03-31`, `baseline 17`, `effective 2026-03-31` or `effective 120 of FM-1000`, and
 * after ` in ` the name of a configuration.
 */
export function isLensText(text: string): boolean {
  const { versions, configuration } = lensParts(text);
  const isNamed = configuration === undefined || isName(configuration);
  const isKnown = /^(recorded|newest|released)$/.test(versions) || isDay(versions);
  return isNamed && (isKnown || baselineIn(text) !== undefined || effectiveIn(text) !== undefined);
}

function isName(text: string): boolean {
  return text.trim() !== '' && text.length <= LONGEST_CONFIGURATION && !/\p{Cc}/u.test(text);
}
