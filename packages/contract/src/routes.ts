/**
 * Everything that the server answers, in one table, room by room: the server serves what is in it, the matrix of who may do
 * what is tested by it, and OpenAPI is written from it. The schemas of what is sent stand beside it in `schemas/inputs.ts`, so
 * that a browser need not load them.
 */
import type { Route } from './route-answers.js';
import type { RouteFacts } from './route-facts.js';
import { ACCESS_ROUTES } from './routes/access.js';
import { AUDIT_ROUTES } from './routes/audit.js';
import { BUILD_ROUTES } from './routes/build.js';
import { CUSTODY_ROUTES } from './routes/custody.js';
import { DERIVE_ROUTES } from './routes/derive.js';
import { FILES_ROUTES } from './routes/files.js';
import { FIND_ROUTES } from './routes/find.js';
import { INTAKE_ROUTES } from './routes/intake.js';
import { ISSUED_ROUTES } from './routes/issued.js';
import { ITEMS_ROUTES } from './routes/items.js';
import { CHANGE_ROUTES } from './routes/change.js';
import { WEBHOOKS_ROUTES } from './routes/webhooks.js';
import { LIFECYCLE_ROUTES } from './routes/lifecycle.js';
import { MARK_UP_ROUTES } from './routes/mark-up.js';
import { NOTICES_ROUTES } from './routes/notices.js';
import { PLACES_ROUTES } from './routes/places.js';
import { PROPERTIES_ROUTES } from './routes/properties.js';
import { RUNNING_ROUTES } from './routes/running.js';
import { SETTINGS_ROUTES } from './routes/settings.js';
import { STRUCTURE_ROUTES } from './routes/structure.js';
import { WISH_ROUTES } from './routes/wish.js';

export const ROUTES: { readonly [R in Route]: RouteFacts } = {
  ...ACCESS_ROUTES,
  ...AUDIT_ROUTES,
  ...STRUCTURE_ROUTES,
  ...BUILD_ROUTES,
  ...FIND_ROUTES,
  ...CUSTODY_ROUTES,
  ...RUNNING_ROUTES,
  ...DERIVE_ROUTES,
  ...MARK_UP_ROUTES,
  ...WISH_ROUTES,
  ...FILES_ROUTES,
  ...INTAKE_ROUTES,
  ...ISSUED_ROUTES,
  ...ITEMS_ROUTES,
  ...CHANGE_ROUTES,
  ...WEBHOOKS_ROUTES,
  ...LIFECYCLE_ROUTES,
  ...NOTICES_ROUTES,
  ...PLACES_ROUTES,
  ...PROPERTIES_ROUTES,
  ...SETTINGS_ROUTES,
};
