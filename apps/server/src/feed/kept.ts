import { LRUCache } from 'lru-cache';
import type { Marks } from './freshness.js';

interface Entry<V> {
  readonly mark: string;
  readonly value: Promise<V>;
}

/**
 * Values that were worked out from the store, kept until anything of it, or of who may see it, has changed. Whoever asks for
 * one that is being worked out waits for that one.
 */
export class Kept<V extends object> {
  private readonly entries: LRUCache<string, Entry<V>>;

  constructor(
    private readonly marks: Marks,
    { most }: { readonly most: number },
  ) {
    this.entries = new LRUCache({ max: most });
  }

  async get(key: string, make: () => Promise<V>): Promise<V> {
    const mark = markOf(this.marks);
    if (mark === undefined) return make();
    const known = this.entries.get(key);
    if (known?.mark === mark) return known.value;
    const value = make();
    this.entries.set(key, { mark, value });
    // What failed is not kept.
    value.catch(() => this.entries.get(key)?.value === value && this.entries.delete(key));
    return value;
  }
}

/** Of the store and of who may see it; undefined while either is not known. */
export function markOf(marks: Marks): string | undefined {
  const [store, access] = [marks.mark('store'), marks.mark('access')];
  return store === undefined || access === undefined ? undefined : `${store} ${access}`;
}
