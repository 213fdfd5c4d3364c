/** Adds to the list that a key has; the same list grows, so that very many under one key cost no more each than a few. */
export function addTo<K, V>(lists: Map<K, V[]>, key: K, value: V): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}
