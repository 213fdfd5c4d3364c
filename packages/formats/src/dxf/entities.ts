import { readTags, type DxfTag } from './tags.js';

/** One entity, object or table entry: its groups until the next group 0. */
export interface Entity {
  readonly type: string;
  readonly tags: readonly DxfTag[];
}

/** All of a file, one after another. `O(bytes)`. */
export function* entities(bytes: Uint8Array): Generator<Entity> {
  let type: string | undefined;
  let tags: DxfTag[] = [];
  for (const tag of readTags(bytes)) {
    if (tag.code !== 0) {
      tags.push(tag);
      continue;
    }
    if (type !== undefined) yield { type, tags };
    type = tag.value.trim();
    tags = [];
  }
  if (type !== undefined) yield { type, tags };
}

export function first({ tags }: Entity, code: number): DxfTag | undefined {
  return tags.find((tag) => tag.code === code);
}

/** A number of an entity; `otherwise` where it is not given or is none. */
export function numberOf(entity: Entity, code: number, otherwise = 0): number {
  const value = Number(first(entity, code)?.value.trim() || NaN);
  return Number.isFinite(value) ? value : otherwise;
}

export function textOf(entity: Entity, code: number): string {
  return first(entity, code)?.value.trim() ?? '';
}

/** Three coordinates, `code` the first of them (DXF reference, group codes 10 to 39). */
export type Triple = readonly [number, number, number];

export function pointOf(entity: Entity, code: number): Triple {
  return [numberOf(entity, code), numberOf(entity, code + 10), numberOf(entity, code + 20)];
}

/** Points that are listed one after another under the same codes. */
export function pointsOf({ tags }: Entity, code: number): Triple[] {
  const all: [number, number, number][] = [];
  for (const tag of tags) {
    const value = Number(tag.value);
    if (!Number.isFinite(value)) continue;
    const last = all.at(-1);
    if (tag.code === code) all.push([value, 0, 0]);
    else if (last && tag.code === code + 10) last[1] = value;
    else if (last && tag.code === code + 20) last[2] = value;
  }
  return all;
}

/** All numbers under one code. */
export function numbersOf({ tags }: Entity, code: number): number[] {
  return tags.flatMap((tag) =>
    tag.code === code && Number.isFinite(Number(tag.value)) ? Number(tag.value) : [],
  );
}
