export type * from './access.js';
export { AUDIT_KINDS } from './audit.js';
export type * from './audit.js';
export { FIND_GROUPS, FIND_LENSES, FIND_SORTS, FOUND_IN, TABLE_COLUMNS } from './find.js';
export type * from './find.js';
export type * from './net.js';
export { PROBLEM_CODES, type Problem, type ProblemCode } from './errors.js';
export {
  ISSUED_FOLDER,
  isOfDesign,
  MANIFEST_NAME,
  type FetchManifest,
  type FetchPlanAnswer,
} from './manifest.js';
export {
  formatReference,
  isLensText,
  lensParts,
  lensText,
  parseReference,
  type ItemReference,
  type LensParts,
  type LensText,
  baselineIn,
  baselineLens,
  effectiveIn,
  effectiveLens,
} from './reference.js';
export type * from './properties.js';
export type * from './bom.js';
export type * from './build.js';
export type * from './compare.js';
export type * from './lineage.js';
export type * from './custody.js';
export type * from './history.js';
export * from './jobs.js';
export * from './derive.js';
export * from './look.js';
export * from './mark-up.js';
export type * from './wish.js';
export type * from './intake.js';
export { NOTICE_KINDS, NOTICE_WAYS } from './notices.js';
export type * from './notices.js';
export type * from './issued.js';
export type * from './webhooks.js';
export { ITEM_KINDS } from './items.js';
export { SCOPE_KINDS } from './lifecycle.js';
export type * from './items.js';
export type * from './lifecycle.js';
export type * from './check.js';
export { CHANGE_MAP_ROLES } from './change.js';
export type * from './change.js';
export type * from './places.js';
export type * from './structure.js';
export type * from './welcome.js';
export { ROUTES } from './routes.js';
export { MOST_BODY_BYTES, type RouteFacts, type RouteRoom } from './route-facts.js';
export type {
  Addresses,
  AnswerTo,
  Health,
  NumbersReserved,
  RevisionSetting,
  ZoneSetting,
  Route,
  RouteAnswers,
  TitleBlockSetting,
  TokenAnswer,
  VersionMade,
} from './route-answers.js';
