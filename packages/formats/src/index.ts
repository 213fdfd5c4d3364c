export { readStep } from './step/read.js';
export { rewriteStep, type RewrittenStep, type StepRenaming } from './step/rewrite.js';
export { writeStepAssembly, type StepAssembly } from './step/write.js';
export { annotateStepPart, type StepAnnotation } from './step/annotate.js';
export { StepError } from './step/errors.js';
export { decodeStepString, encodeStepString } from './step/strings.js';
