/** The types of all answers, for the generator of their schemas (`npm run schemas`). */
export type { Recipe, RecipeProblem } from '@stem-trace/core/recipes';
export type { Proof, ProofDocument, QueryWords } from '@stem-trace/core';
export type * from './index.js';
