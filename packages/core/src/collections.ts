/** Adds to the list that a key has; the same list grows, so that very many under one key cost no more each than a few. */
export function addTo<K, V>(lists: Map<K, V[]>, key: K, value: V): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}

/**
 * What a key has, where it must have something: a value that is not there is a fault, not an empty one.
 *
 * @throws Error that names the key
 */
export function known<K, V>(values: ReadonlyMap<K, V>, key: K): V {
  const value = values.get(key);
  if (value === undefined) throw new Error(`nothing is known of ${String(key)}`);
  return value;
}

/** What lies at a place that must be there. @throws Error that names the place */
export function valueAt<V>(values: ArrayLike<V>, place: number): V {
  const value = values[place];
  if (value === undefined) throw new Error(`nothing lies at ${place} of ${values.length}`);
  return value;
}
