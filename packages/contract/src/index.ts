export type * from './audit.js';
export { PROBLEM_CODES, type Problem, type ProblemCode } from './errors.js';
export { formatReference, isLensText, parseReference, type ItemReference } from './reference.js';
export type * from './types.js';
