import type { AddChoice } from '@stem-trace/contract';

/** What is to be added, as an address says it; undefined where that is not something that can be added. */
export function askedAddition(said: string): AddChoice | undefined {
  const { in: chain, item, name, like, at, along } = objectOf(said);
  if (!isTexts(chain) || chain.length === 0 || !isText(item) || item === '' || !isSpot(at)) return undefined;
  return {
    ...{ in: chain, item, name: isText(name) ? name : '', like: isText(like) ? like : '', at },
    ...(isSpot(along) ? { along } : {}),
  };
}

function objectOf(said: string): Readonly<Record<string, unknown>> {
  try {
    const value: unknown = JSON.parse(said);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}

function isText(value: unknown): value is string {
  return typeof value === 'string';
}

function isTexts(value: unknown): value is readonly string[] {
  return Array.isArray(value) && value.every(isText);
}

/** x, y, z. */
function isSpot(value: unknown): value is readonly number[] {
  return Array.isArray(value) && value.length === 3 && value.every(Number.isFinite);
}
