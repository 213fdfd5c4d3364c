/** Words of the model as conditions of SQL, once. */
import { RELEASED_STATES, STRUCTURE_RELATIONS } from '@stem-trace/core';

/** Condition on the links (`alias`) that are structure, as SQL. */
export function isStructure(alias = 'l'): string {
  return `${alias}.relation IN (${listed(STRUCTURE_RELATIONS)})`;
}

/** Condition on the revisions (`alias`) whose versions the lens *Released* picks, as SQL. */
export function isReleased(alias = 'r'): string {
  return `${alias}.state IN (${listed(RELEASED_STATES)})`;
}

function listed(words: readonly string[]): string {
  return words.map((word) => `'${word}'`).join(', ');
}
