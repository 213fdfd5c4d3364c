import type { IndexAnswers, IndexAsk, IndexQuestionKind } from '@stem-trace/core';

/** Where the whole structure is kept in memory. */
export abstract class IndexSource {
  /** @returns undefined while it is loading */
  abstract ask<K extends IndexQuestionKind>(ask: IndexAsk<K>): Promise<IndexAnswers[K] | undefined>;
}
