import { STRUCTURE_RELATIONS } from '@stem-trace/core';

/** Condition on the links (`alias`) that are structure, as SQL. */
export function isStructure(alias = 'l'): string {
  return `${alias}.relation IN (${STRUCTURE_RELATIONS.map((relation) => `'${relation}'`).join(', ')})`;
}
