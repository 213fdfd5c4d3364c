/** What each route takes: in its path, its query and its body. A route takes nothing that is not named here. */
import type { Schema } from 'joi';
import type { Route } from '../routes.js';
import {
  entriesSchema,
  entryParameters,
  newPersonSchema,
  personChangeSchema,
  placeAccessSchema,
  placeSchema,
  signInSchema,
  tokenSchema,
} from './access.js';
import { auditFileSchema, auditSchema } from './audit.js';
import {
  alignSchema,
  breakHoldSchema,
  bringBackSchema,
  checkOutSchema,
  stepSchema,
  watchSchema,
} from './custody.js';
import { deriveSchema } from './derive.js';
import { fetchSchema } from './fetch.js';
import {
  findCountsSchema,
  findRangesSchema,
  findSchema,
  findTableSchema,
  saveSchema,
  savedParameters,
} from './find.js';
import {
  archiveSchema,
  carryOutSchema,
  correctionSchema,
  intakeSchema,
  sheetParameters,
  uploadSchema,
} from './intake.js';
import {
  belongSchema,
  createPlaceSchema,
  itemSchema,
  itemsSchema,
  moveItemsSchema,
  movePlaceSchema,
  renameItemSchema,
} from './items.js';
import {
  editPropertiesSchema,
  reserveSchema,
  revisionSchemeSchema,
  setClassSchema,
  setDefinitionSchema,
  setSchemeSchema,
  titleBlockSchema,
} from './settings.js';
import { jobSchema, proofSchema } from './jobs.js';
import {
  commonSchema,
  compareSchema,
  configurationsSchema,
  effectSchema,
  netSchema,
  structureSchema,
} from './structure.js';

export interface RouteInput {
  readonly path?: Schema;
  readonly query?: Schema;
  readonly body?: Schema;
}

export const INPUTS: { readonly [R in Route]?: RouteInput } = {
  'POST /api/session': { body: signInSchema },
  'POST /api/tokens': { body: tokenSchema },
  'GET /api/entries': { query: entriesSchema },
  'DELETE /api/entries/:id': { path: entryParameters },
  'GET /api/audit': { query: auditSchema },
  'GET /api/audit.csv': { query: auditFileSchema },
  'GET /api/compare': { query: compareSchema },
  'POST /api/holds': { body: checkOutSchema },
  'POST /api/holds/let-go': { body: itemsSchema },
  'POST /api/holds/break': { body: breakHoldSchema },
  'POST /api/revise': { body: itemsSchema },
  'POST /api/catch-up': { body: itemsSchema },
  'POST /api/bring-back': { body: bringBackSchema },
  'POST /api/derive/preview': { body: deriveSchema },
  'GET /api/derive/proposal': { query: itemSchema },
  'POST /api/derive': { body: deriveSchema },
  'GET /api/derive/proof': { query: itemSchema },
  'POST /api/derive/proof': { body: proofSchema },
  'POST /api/jobs/cancel': { body: jobSchema },
  'POST /api/jobs/retry': { body: jobSchema },
  'GET /api/fetch': { query: fetchSchema },
  'GET /api/file': { query: itemSchema },
  'GET /api/text': { query: itemSchema },
  'GET /api/items': { query: findSchema },
  'GET /api/find/counts': { query: findCountsSchema },
  'GET /api/find/ranges': { query: findRangesSchema },
  'GET /api/find/table': { query: findTableSchema },
  'GET /api/like/properties': { query: itemSchema },
  'POST /api/saved': { body: saveSchema },
  'DELETE /api/saved/:id': { path: savedParameters },
  'POST /api/intakes': { body: intakeSchema },
  'POST /api/intakes/archive': { query: archiveSchema },
  'GET /api/intakes/:id': { path: sheetParameters },
  'PATCH /api/intakes/:id': { path: sheetParameters, body: correctionSchema },
  'PUT /api/intakes/:id/files': { path: sheetParameters, query: uploadSchema },
  'POST /api/intakes/:id/carry-out': { path: sheetParameters, body: carryOutSchema },
  'POST /api/intakes/:id/cancel': { path: sheetParameters },
  'GET /api/item': { query: itemSchema },
  'POST /api/items/belong': { body: belongSchema },
  'POST /api/steps': { body: stepSchema },
  'POST /api/align/preview': { body: alignSchema },
  'POST /api/align': { body: alignSchema },
  'GET /api/like': { query: itemSchema },
  'GET /api/scene': { query: fetchSchema },
  'GET /api/mesh': { query: itemSchema },
  'POST /api/watch': { body: watchSchema },
  'POST /api/people': { body: newPersonSchema },
  'PATCH /api/people': { body: personChangeSchema },
  'POST /api/places': { body: createPlaceSchema },
  'POST /api/places/move': { body: movePlaceSchema },
  'GET /api/places/access': { query: placeSchema },
  'PUT /api/places/access': { body: placeAccessSchema },
  'POST /api/places/bin': { body: placeSchema },
  'POST /api/places/restore': { body: placeSchema },
  'POST /api/items/move': { body: moveItemsSchema },
  'POST /api/items/rename': { body: renameItemSchema },
  'PUT /api/properties/definition': { body: setDefinitionSchema },
  'PUT /api/properties/class': { body: setClassSchema },
  'POST /api/items/properties': { body: editPropertiesSchema },
  'PUT /api/numbers': { body: setSchemeSchema },
  'POST /api/numbers/reserve': { body: reserveSchema },
  'PUT /api/settings/title-block': { body: titleBlockSchema },
  'PUT /api/settings/revisions': { body: revisionSchemeSchema },
  'GET /api/net': { query: netSchema },
  'GET /api/configurations': { query: configurationsSchema },
  'POST /api/effect': { body: effectSchema },
  'POST /api/common': { body: commonSchema },
  'GET /api/made': { query: structureSchema },
  'GET /api/used': { query: structureSchema },
};
