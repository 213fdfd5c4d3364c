import { addressOf } from '../api/client.js';

/** Of an item's mesh as pictures read it. */
export function meshAddress(item: string): string {
  return addressOf('/api/mesh', { item, form: 'packed' });
}
