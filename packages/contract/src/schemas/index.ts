/** What the server accepts, as Joi schemas. Unknown members are refused everywhere. */
export * from './access.js';
export * from './audit.js';
export { placePath, uploadPath } from './common.js';
export * from './custody.js';
export * from './derive.js';
export * from './wish.js';
export * from './fetch.js';
export * from './find.js';
export { INPUTS, type RouteInput } from './inputs.js';
export * from './intake.js';
export * from './items.js';
export * from './lifecycle.js';
export * from './check.js';
export * from './change.js';
export * from './notices.js';
export * from './webhooks.js';
export * from './settings.js';
export * from './structure.js';
