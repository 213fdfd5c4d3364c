import { bookOf, type DiagramState, type StateBook } from '@stem-trace/core';
import { flag, readRows, text, word, type Asks } from './read-rows.js';

/** Every state of the store with what it means, in the order in which they came to be. */
export async function stateBook(asks: Asks): Promise<StateBook> {
  return bookOf(
    await readRows<DiagramState>(
      asks,
      {
        name: text,
        lane: word<DiagramState['lane']>(),
        isReleased: flag,
        glyph: word<DiagramState['glyph']>(),
      },
      'SELECT name, lane, is_released AS "isReleased", glyph FROM state ORDER BY position',
    ),
  );
}
