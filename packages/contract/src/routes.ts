/**
 * Everything that the server answers, in one table: the server serves what is in it, the clients' answers get their types
 * from it, the matrix of who may do what is tested by it, and OpenAPI is written from it. The schemas of what is sent stand
 * beside it in `schemas/inputs.ts`, so that a browser need not load them.
 */
import type {
  Proof,
  ProofDocument,
  QueryWords,
  RevisionScheme,
  Right,
  TitleBlockRule,
} from '@stem-trace/core';

import type { BinRow, EntryRow, PersonRow, PlaceAccessView, Preferences } from './access.js';
import type { AuditAnswer } from './audit.js';
import type { BillAnswer, ColumnSet, FindProposal, ListView } from './bom.js';
import type {
  BillRelease,
  BillSummary,
  BuildAnswer,
  CarryAnswer,
  ReadinessAnswer,
  ReadinessSetting,
  UsedBesidesAnswer,
} from './build.js';
import type { CompareAnswer, ThreeAnswer } from './compare.js';
import type { FamilyAnswer, StemAnswer } from './lineage.js';
import type { AlignAnswer, CheckRow, CustodyAnswer, HoldRow, NoticesAnswer, StepPreview } from './custody.js';
import type { HistoryAnswer } from './history.js';
import type {
  DocumentAnswer,
  KeptScene,
  KeptScenesAnswer,
  OverlapsAnswer,
  SceneKept,
  TraitsAnswer,
} from './look.js';
import type { MarkMade, MarkUpAnswer } from './mark-up.js';
import type {
  BeginResult,
  CarryOverPlan,
  CarryOverResult,
  DerivePreview,
  PlanDraft,
  PlanGround,
  DeriveRequest,
  DeriveProposal,
  DeriveResult,
} from './derive.js';
import type { RecipeProblem } from '@stem-trace/core/recipes';
import type { OrderAnswer, RecipeSummary, RecipeView, WishPlan, WishSheetRow } from './wish.js';
import type {
  FindAnswer,
  FindCounts,
  FindRanges,
  LikeAnswer,
  LikePropertiesAnswer,
  SavedRow,
} from './find.js';
import type { IntakeSheetRow, IntakeView } from './intake.js';
import type { JobView, ProofAnswer } from './jobs.js';
import type { FetchPlanAnswer } from './manifest.js';
import type { FileTextAnswer, ItemView, PersonView } from './items.js';
import type { ConfigurationsAnswer, EffectAnswer, NetAnswer } from './net.js';
import type { AlongRow, PlaceRow, VerifyAnswer } from './places.js';
import type { NumberSchemeRow, PropertiesAnswer } from './properties.js';
import type { NearAnswer, SceneAnswer, StructureAnswer } from './structure.js';
import type { WelcomeAnswer } from './welcome.js';

export interface TokenAnswer {
  /** Shown this once. */
  readonly token: string;
}

export interface VersionMade {
  readonly number: string;
  readonly version: string;
}

export interface NumbersReserved {
  readonly numbers: readonly string[];
}

export interface TitleBlockSetting {
  readonly rules: readonly TitleBlockRule[];
}

export interface RevisionSetting {
  readonly scheme: RevisionScheme;
}

export interface Health {
  readonly status: 'ok' | 'not ready';
  readonly version: string;
}

/** What each route answers; `undefined` where it answers without a body, bytes where it is no JSON. */
export interface RouteAnswers {
  'GET /api/session': PersonView;
  'POST /api/session': PersonView;
  'DELETE /api/session': undefined;
  'POST /api/tokens': TokenAnswer;
  'GET /api/entries': EntryRow[];
  'DELETE /api/entries/:id': undefined;
  'GET /api/audit': AuditAnswer;
  'GET /api/audit.csv': Uint8Array;
  'GET /api/compare': CompareAnswer;
  'GET /api/compare/file': Uint8Array;
  'GET /api/compare/three': ThreeAnswer;
  'POST /api/lists': ListView;
  'POST /api/lists/of': ListView;
  'GET /api/lists/:id': ListView;
  'PUT /api/lists/:id': ListView;
  'GET /api/bills': readonly BillSummary[];
  'POST /api/bills': VersionMade;
  'GET /api/build': BuildAnswer;
  'PUT /api/build': VersionMade;
  'GET /api/build/carry': CarryAnswer;
  'POST /api/build/carry': VersionMade;
  'GET /api/build/check': ReadinessAnswer;
  'GET /api/build/releases': readonly BillRelease[];
  'GET /api/build/releases/file': Uint8Array;
  'GET /api/build/template': Uint8Array;
  'GET /api/settings/readiness': ReadinessSetting;
  'PUT /api/settings/readiness': ReadinessSetting;
  'GET /api/bill': BillAnswer;
  'GET /api/bill/file': Uint8Array;
  'GET /api/bill.xsd': string;
  'POST /api/bill/rows': CustodyAnswer;
  'GET /api/bill/finds': FindProposal;
  'GET /api/used/besides': UsedBesidesAnswer;
  'GET /api/stem': StemAnswer;
  'GET /api/family': FamilyAnswer;
  'PUT /api/alternates': undefined;
  'POST /api/alternates/approve': undefined;
  'POST /api/alternates/remove': undefined;
  'GET /api/column-sets': ColumnSet[];
  'PUT /api/column-sets': ColumnSet[];
  'DELETE /api/column-sets': ColumnSet[];
  'GET /api/holds': HoldRow[];
  'POST /api/holds': CustodyAnswer;
  'POST /api/holds/let-go': CustodyAnswer;
  'POST /api/holds/reason': CustodyAnswer;
  'POST /api/holds/ask': undefined;
  'POST /api/holds/answer': undefined;
  'POST /api/holds/break': undefined;
  'POST /api/revise': CustodyAnswer;
  'POST /api/catch-up': CustodyAnswer;
  'POST /api/bring-back': VersionMade;
  'GET /api/welcome': WelcomeAnswer;
  'GET /health': Health;
  'GET /ready': Health;
  'GET /api/openapi.json': Uint8Array;
  'POST /api/derive/preview': DerivePreview;
  'POST /api/derive/ground': PlanGround;
  'GET /api/derive/proposal': DeriveProposal;
  'POST /api/derive': DeriveResult;
  'POST /api/begin': BeginResult;
  'GET /api/derive/proof': Proof;
  'POST /api/derive/proof': ProofAnswer;
  'GET /api/print': Uint8Array;
  'GET /api/mark-up': MarkUpAnswer;
  'POST /api/mark-up': MarkMade;
  'POST /api/mark-up/change': undefined;
  'POST /api/mark-up/remark': undefined;
  'POST /api/mark-up/settle': undefined;
  'POST /api/mark-up/remove': undefined;
  'GET /api/plans': readonly PlanDraft[];
  'PUT /api/plans': PlanDraft;
  'GET /api/plan': DeriveRequest;
  'POST /api/plans/remove': undefined;
  'GET /api/carry-over': CarryOverPlan;
  'POST /api/carry-over': CarryOverResult;
  'GET /api/recipes': readonly RecipeSummary[];
  'POST /api/recipes': VersionMade;
  'GET /api/recipe': RecipeView;
  'PUT /api/recipe': VersionMade;
  'POST /api/recipe/check': readonly RecipeProblem[];
  'POST /api/wishes/plan': WishPlan;
  'POST /api/wishes': OrderAnswer;
  'GET /api/wishes': readonly WishSheetRow[];
  'GET /api/derive/proof/rows': ProofDocument;
  'GET /api/derive/proof/file': Uint8Array;
  'GET /api/jobs': JobView[];
  'POST /api/jobs/cancel': undefined;
  'POST /api/jobs/retry': undefined;
  'GET /api/feed': Uint8Array;
  'GET /api/fetch': Uint8Array;
  'GET /api/fetch/plan': FetchPlanAnswer;
  'GET /api/fetch/joined': Uint8Array;
  'GET /api/file': Uint8Array;
  'GET /api/text': FileTextAnswer;
  'GET /api/items': FindAnswer;
  'GET /api/find/words': QueryWords;
  'GET /api/find/counts': FindCounts;
  'GET /api/find/ranges': FindRanges;
  'GET /api/find/table': Uint8Array;
  'GET /api/like/properties': LikePropertiesAnswer;
  'GET /api/saved': SavedRow[];
  'POST /api/saved': SavedRow[];
  'DELETE /api/saved/:id': SavedRow[];
  'GET /api/intakes': IntakeSheetRow[];
  'POST /api/intakes': IntakeView;
  'POST /api/intakes/split': IntakeView;
  'POST /api/intakes/archive': IntakeView;
  'GET /api/intakes/:id': IntakeView;
  'GET /api/staged/file': Uint8Array;
  'GET /api/staged/mesh': Uint8Array;
  'PATCH /api/intakes/:id': IntakeView;
  'PUT /api/intakes/:id/files': undefined;
  'POST /api/intakes/:id/carry-out': IntakeView;
  'POST /api/intakes/:id/cancel': IntakeView;
  'GET /api/item': ItemView;
  'POST /api/items/belong': CustodyAnswer;
  'POST /api/steps/preview': StepPreview;
  'GET /api/checks': CheckRow[];
  'GET /api/history': HistoryAnswer;
  'POST /api/steps': CustodyAnswer;
  'POST /api/align/preview': AlignAnswer;
  'POST /api/align': AlignAnswer;
  'GET /api/like': LikeAnswer;
  'POST /api/like': LikeAnswer;
  'GET /api/scene': SceneAnswer;
  'GET /api/near': NearAnswer;
  'GET /api/overlaps': OverlapsAnswer;
  'GET /api/scene/traits': TraitsAnswer;
  'GET /api/scenes': KeptScenesAnswer;
  'GET /api/scenes/one': KeptScene;
  'POST /api/scenes': SceneKept;
  'PUT /api/scenes': undefined;
  'POST /api/scenes/remove': undefined;
  'GET /api/document': DocumentAnswer;
  'GET /api/mesh': Uint8Array;
  'GET /api/notices': NoticesAnswer;
  'POST /api/notices/read': undefined;
  'POST /api/watch': undefined;
  'POST /api/password': undefined;
  'GET /api/preferences': Preferences;
  'PUT /api/preferences': Preferences;
  'GET /api/people': PersonRow[];
  'POST /api/people': PersonRow;
  'PATCH /api/people': PersonRow;
  'GET /api/places': PlaceRow[];
  'POST /api/places': undefined;
  'POST /api/places/move': undefined;
  'GET /api/places/access': PlaceAccessView;
  'PUT /api/places/access': PlaceAccessView;
  'GET /api/places/papers': AlongRow[];
  'POST /api/items/along': AlongRow[];
  'GET /api/places/bin': BinRow[];
  'POST /api/places/bin': undefined;
  'POST /api/places/restore': undefined;
  'POST /api/items/move': undefined;
  'POST /api/items/rename': undefined;
  'GET /api/properties': PropertiesAnswer;
  'PUT /api/properties/definition': PropertiesAnswer;
  'PUT /api/properties/class': PropertiesAnswer;
  'POST /api/items/properties': CustodyAnswer;
  'GET /api/numbers': NumberSchemeRow[];
  'PUT /api/numbers': NumberSchemeRow[];
  'POST /api/numbers/reserve': NumbersReserved;
  'GET /api/settings/title-block': TitleBlockSetting;
  'PUT /api/settings/title-block': TitleBlockSetting;
  'GET /api/settings/revisions': RevisionSetting;
  'PUT /api/settings/revisions': RevisionSetting;
  'GET /api/net': NetAnswer;
  'GET /api/configurations': ConfigurationsAnswer;
  'POST /api/effect': EffectAnswer;
  'POST /api/common': EffectAnswer;
  'GET /api/made': StructureAnswer;
  'GET /api/used': StructureAnswer;
  'GET /api/verify': VerifyAnswer;
}

export type Route = keyof RouteAnswers;

/** An address with something in the place of each parameter. */
type Filled<P extends string> = P extends `${infer Before}:${infer Rest}`
  ? Rest extends `${string}/${infer After}`
    ? `${Before}${string}/${Filled<After>}`
    : `${Before}${string}`
  : P;

/** Where a method may be sent. */
export type Addresses<M extends string> = {
  [R in Route]: R extends `${M} ${infer P}` ? Filled<P> : never;
}[Route];

type RoutesAt<M extends string, A extends string> = {
  [R in Route]: R extends `${M} ${infer P}` ? (P extends A ? R : A extends Filled<P> ? R : never) : never;
}[Route];

/** What is answered there; where an address is named in full, that of it alone. */
export type AnswerTo<M extends string, A extends string> = `${M} ${A}` extends keyof RouteAnswers
  ? RouteAnswers[`${M} ${A}`]
  : RouteAnswers[RoutesAt<M, A>];

/** Rooms of the server, by which the description of the routes is ordered. */
export type RouteRoom =
  | 'access'
  | 'audit'
  | 'build'
  | 'structure'
  | 'custody'
  | 'running'
  | 'derive'
  | 'wish'
  | 'files'
  | 'find'
  | 'intake'
  | 'items'
  | 'lifecycle'
  | 'mark-up'
  | 'notices'
  | 'places'
  | 'properties'
  | 'settings';

export interface RouteFacts {
  /** What it does, as a sentence without a full stop. */
  readonly does: string;
  readonly room: RouteRoom;
  readonly status: 200 | 201 | 202 | 204;
  /**
   * What is asked for where the items or places lie; `administrator` for that role alone, `signed in` where everybody may,
   * `nobody` where one need not sign in.
   */
  readonly wants: Right | 'administrator' | 'signed in' | 'nobody';
  /** Refused for each item by itself, in an answer that is no problem. */
  readonly refusesEach?: true;
  /** Changes nothing, though it is not asked for with GET: a question too long for an address. */
  readonly isQuestion?: true;
  /** Name of the answer's type, media type of an answer that is no JSON, or null where there is no body. */
  readonly answer: string | { readonly media: string } | null;
  /** Whether the answer is a list of that type. */
  readonly isList?: true;
  /** Most bytes of a JSON body. */
  readonly mostBytes?: number;
  /** The body is a file. */
  readonly upload?: { readonly media: string; readonly mostBytes: number };
  /** May be answered from memory while nothing has changed. */
  readonly isRemembered?: true;
}

/** A JSON body may be so large where a route says nothing else. */
export const MOST_BODY_BYTES = 100_000;

export const ROUTES: { readonly [R in Route]: RouteFacts } = {
  'GET /api/session': {
    does: 'Who is asking',
    room: 'access',
    status: 200,
    wants: 'signed in',
    answer: 'PersonView',
  },
  'POST /api/session': {
    does: 'Sign in; the session comes as a cookie',
    room: 'access',
    status: 200,
    wants: 'nobody',
    isQuestion: true,
    answer: 'PersonView',
    mostBytes: 4_000,
  },
  'DELETE /api/session': {
    does: 'Sign out',
    room: 'access',
    status: 204,
    wants: 'nobody',
    isQuestion: true,
    answer: null,
  },
  'POST /api/tokens': {
    does: 'A token for a program, which acts for whoever makes it',
    room: 'access',
    status: 201,
    wants: 'signed in',
    answer: 'TokenAnswer',
  },
  'GET /api/entries': {
    does: "Sessions and tokens: one's own, or for an administrator everybody's",
    room: 'access',
    status: 200,
    wants: 'signed in',
    answer: 'EntryRow',
    isList: true,
  },
  'DELETE /api/entries/:id': {
    does: 'End a session or a token',
    room: 'access',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'GET /api/audit': {
    does: 'A page of the trail, newest first',
    room: 'audit',
    status: 200,
    wants: 'administrator',
    answer: 'AuditAnswer',
  },
  'GET /api/audit.csv': {
    does: 'The trail as a table',
    room: 'audit',
    status: 200,
    wants: 'administrator',
    answer: { media: 'text/csv' },
  },
  'GET /api/compare': {
    does: 'What is different between two versions',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'CompareAnswer',
    isRemembered: true,
  },
  'GET /api/compare/file': {
    does: 'A comparison as a file: redline as PDF or XLSX, or CSV',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/compare/three': {
    does: 'What two BOMs changed of a common origin',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'ThreeAnswer',
    isRemembered: true,
  },
  'POST /api/lists': {
    does: 'Send a list to be compared: CSV, XLSX, CycloneDX or XML; kept for 30 days',
    room: 'structure',
    status: 200,
    wants: 'signed in',
    answer: 'ListView',
    upload: { media: 'application/octet-stream', mostBytes: 67_108_864 },
  },
  'POST /api/lists/of': {
    does: 'Take a document of the store for a list to be compared',
    room: 'structure',
    status: 200,
    wants: 'fetch',
    answer: 'ListView',
  },
  'GET /api/lists/:id': {
    does: 'A list that was sent, with what its columns mean',
    room: 'structure',
    status: 200,
    wants: 'signed in',
    answer: 'ListView',
  },
  'PUT /api/lists/:id': {
    does: 'Say what the columns of a list mean',
    room: 'structure',
    status: 200,
    wants: 'signed in',
    answer: 'ListView',
  },
  'GET /api/bills': {
    does: 'Bills, of one item or all',
    room: 'build',
    status: 200,
    wants: 'signed in',
    answer: 'BillSummary',
    isList: true,
  },
  'POST /api/bills': {
    does: 'Make a bill of an item under a lens',
    room: 'build',
    status: 201,
    wants: 'see',
    answer: 'VersionMade',
  },
  'GET /api/build': {
    does: 'A bill with its rows, columns and what engineering said',
    room: 'build',
    status: 200,
    wants: 'see',
    answer: 'BuildAnswer',
  },
  'PUT /api/build': {
    does: 'Save a held bill as a new version',
    room: 'build',
    status: 200,
    wants: 'change',
    answer: 'VersionMade',
  },
  'GET /api/build/carry': {
    does: 'What carrying later engineering over would bring',
    room: 'build',
    status: 200,
    wants: 'see',
    answer: 'CarryAnswer',
  },
  'POST /api/build/carry': {
    does: 'Carry later engineering over into a held bill',
    room: 'build',
    status: 200,
    wants: 'change',
    answer: 'VersionMade',
  },
  'GET /api/build/check': {
    does: 'What stands in the way of releasing a bill',
    room: 'build',
    status: 200,
    wants: 'see',
    answer: 'ReadinessAnswer',
  },
  'GET /api/build/releases': {
    does: 'Releases of a bill, newest first',
    room: 'build',
    status: 200,
    wants: 'see',
    answer: 'BillRelease',
    isList: true,
  },
  'GET /api/build/releases/file': {
    does: 'A file that was made for a release',
    room: 'build',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/build/template': {
    does: 'The spreadsheet template that ships',
    room: 'build',
    status: 200,
    wants: 'signed in',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/settings/readiness': {
    does: 'What bills are checked for before their release',
    room: 'build',
    status: 200,
    wants: 'signed in',
    answer: 'ReadinessSetting',
  },
  'PUT /api/settings/readiness': {
    does: 'Set what bills are checked for before their release',
    room: 'build',
    status: 200,
    wants: 'administrator',
    answer: 'ReadinessSetting',
  },
  'GET /api/bill': {
    does: 'The BOM of an item, level by level or parts only',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'BillAnswer',
    isRemembered: true,
  },
  'GET /api/bill/file': {
    does: 'The BOM of an item as a file: CSV, XLSX, PDF, CycloneDX or XML',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/bill.xsd': {
    does: 'The schema of a BOM in XML',
    room: 'structure',
    status: 200,
    wants: 'signed in',
    answer: { media: 'application/xml' },
  },
  'POST /api/bill/rows': {
    does: 'Change find numbers, designators and amounts in the BOM of a held assembly',
    room: 'structure',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
  },
  'GET /api/bill/finds': {
    does: 'Find numbers for the rows that have none, from the list on a drawing where there is one',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'FindProposal',
  },
  'GET /api/used/besides': {
    does: 'Bills that need an item, and what it may be used instead of',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'UsedBesidesAnswer',
  },
  'GET /api/stem': {
    does: 'What was derived from what, and how far each has gone its own way since',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'StemAnswer',
    isRemembered: true,
  },
  'GET /api/family': {
    does: 'All variants of a stem, position by position',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'FamilyAnswer',
    isRemembered: true,
  },
  'PUT /api/alternates': {
    does: 'Say that an item may be used instead of another',
    room: 'structure',
    status: 204,
    wants: 'change',
    answer: null,
  },
  'POST /api/alternates/approve': {
    does: 'Approve an alternate',
    room: 'structure',
    status: 204,
    wants: 'release',
    answer: null,
  },
  'POST /api/alternates/remove': {
    does: 'Take an alternate back',
    room: 'structure',
    status: 204,
    wants: 'change',
    answer: null,
  },
  'GET /api/column-sets': {
    does: 'Sets of columns, one’s own and shared ones',
    room: 'find',
    status: 200,
    wants: 'signed in',
    answer: 'ColumnSet',
    isList: true,
  },
  'PUT /api/column-sets': {
    does: 'Keep a set of columns',
    room: 'find',
    status: 200,
    wants: 'signed in',
    answer: 'ColumnSet',
    isList: true,
  },
  'DELETE /api/column-sets': {
    does: 'Throw a set of columns away',
    room: 'find',
    status: 200,
    wants: 'signed in',
    answer: 'ColumnSet',
    isList: true,
  },
  'GET /api/holds': {
    does: 'What one holds',
    room: 'custody',
    status: 200,
    wants: 'signed in',
    answer: 'HoldRow',
    isList: true,
  },
  'POST /api/holds': {
    does: 'Check items out',
    room: 'custody',
    status: 200,
    wants: 'change',
    refusesEach: true,
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/holds/let-go': {
    does: 'Let items go',
    room: 'custody',
    status: 200,
    wants: 'see',
    refusesEach: true,
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/holds/reason': {
    does: 'Say anew why one holds items',
    room: 'custody',
    status: 200,
    wants: 'see',
    refusesEach: true,
    answer: 'CustodyAnswer',
  },
  'POST /api/holds/ask': {
    does: 'Ask whoever holds an item to let it go',
    room: 'custody',
    status: 204,
    wants: 'see',
    answer: null,
  },
  'POST /api/holds/answer': {
    does: 'Answer who asked for an item that one holds',
    room: 'custody',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/holds/break': {
    does: 'Take a hold away from whoever has it',
    room: 'custody',
    status: 204,
    wants: 'administer',
    answer: null,
  },
  'POST /api/revise': {
    does: 'Open the next revision of released items',
    room: 'custody',
    status: 200,
    wants: 'change',
    refusesEach: true,
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/catch-up': {
    does: 'New versions that record the newest of what they use',
    room: 'custody',
    status: 200,
    wants: 'change',
    refusesEach: true,
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/bring-back': {
    does: 'Make an older version the newest again',
    room: 'custody',
    status: 200,
    wants: 'change',
    answer: 'VersionMade',
  },
  'GET /api/welcome': {
    does: 'What may be known before signing in',
    room: 'access',
    status: 200,
    wants: 'nobody',
    answer: 'WelcomeAnswer',
  },
  'GET /health': {
    does: 'Whether the server runs',
    room: 'running',
    status: 200,
    wants: 'nobody',
    answer: 'Health',
  },
  'GET /ready': {
    does: 'Whether the server can answer: its database does',
    room: 'running',
    status: 200,
    wants: 'nobody',
    answer: 'Health',
  },
  'GET /api/openapi.json': {
    does: 'This description',
    room: 'running',
    status: 200,
    wants: 'nobody',
    answer: { media: 'application/json' },
  },
  'POST /api/derive/preview': {
    does: 'Work out a derivation without writing anything',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'DerivePreview',
    mostBytes: 8_000_000,
  },
  'POST /api/derive/ground': {
    does: 'All that a derivation is planned from, for planning it again with other decisions',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'PlanGround',
    mostBytes: 8_000_000,
  },
  'GET /api/derive/proposal': {
    does: 'Names that the copies of an item might get',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'DeriveProposal',
  },
  'POST /api/derive': {
    does: 'Make a variant, of what one may fetch',
    room: 'derive',
    status: 201,
    wants: 'change',
    answer: 'DeriveResult',
    mostBytes: 8_000_000,
  },
  'POST /api/begin': {
    does: 'Begin an item with a template: copied under new numbers, and held',
    room: 'derive',
    status: 201,
    wants: 'change',
    answer: 'BeginResult',
  },
  'GET /api/derive/proof': {
    does: 'Read the files of a variant back and compare every reference',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'Proof',
  },
  'POST /api/derive/proof': {
    does: 'How far the proof of a variant is; begins it where there is none',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    isQuestion: true,
    answer: 'ProofAnswer',
  },
  'GET /api/print': {
    does: 'A drawing to scale, or pages or a picture, as PDF; with what people drew on it where that is wanted',
    room: 'mark-up',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/pdf' },
  },
  'GET /api/mark-up': {
    does: 'What people drew and wrote on a version, and what is open still of those before it',
    room: 'mark-up',
    status: 200,
    wants: 'fetch',
    answer: 'MarkUpAnswer',
  },
  'POST /api/mark-up': {
    does: 'Draw or write on a version',
    room: 'mark-up',
    status: 201,
    wants: 'fetch',
    answer: 'MarkMade',
  },
  'POST /api/mark-up/change': {
    does: 'Move or reword a mark of one’s own',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/mark-up/remark': {
    does: 'Answer a mark',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/mark-up/settle': {
    does: 'Settle a mark, or open it again',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/mark-up/remove': {
    does: 'Take away a mark of one’s own that nobody answered',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'GET /api/plans': {
    does: 'Plans of an item that are kept: one’s own, and shared ones',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'PlanDraft',
    isList: true,
  },
  'PUT /api/plans': {
    does: 'Keep a plan, in the place of one’s own of the same name',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'PlanDraft',
    mostBytes: 8_000_000,
  },
  'GET /api/plan': {
    does: 'A plan that is kept, as a request',
    room: 'derive',
    status: 200,
    wants: 'signed in',
    answer: 'DeriveRequest',
  },
  'POST /api/plans/remove': {
    does: 'Take away a plan of one’s own',
    room: 'derive',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'GET /api/carry-over': {
    does: 'What later changes of an origin would do to the copies of a variant',
    room: 'derive',
    status: 200,
    wants: 'change',
    answer: 'CarryOverPlan',
  },
  'POST /api/carry-over': {
    does: 'Carry later changes of an origin over into a variant',
    room: 'derive',
    status: 200,
    wants: 'change',
    answer: 'CarryOverResult',
  },
  'GET /api/recipes': {
    does: 'Recipes, all of them or those of an item',
    room: 'wish',
    status: 200,
    wants: 'signed in',
    answer: 'RecipeSummary',
    isList: true,
  },
  'POST /api/recipes': {
    does: 'Make a recipe of an item, as a document that describes it',
    room: 'wish',
    status: 201,
    wants: 'see',
    answer: 'VersionMade',
  },
  'GET /api/recipe': {
    does: 'A recipe with its wishes, rules and what is wrong with it',
    room: 'wish',
    status: 200,
    wants: 'see',
    answer: 'RecipeView',
  },
  'PUT /api/recipe': {
    does: 'Save a held recipe as a new version',
    room: 'wish',
    status: 200,
    wants: 'change',
    answer: 'VersionMade',
  },
  'POST /api/recipe/check': {
    does: 'What is wrong with a recipe, without keeping it',
    room: 'wish',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'RecipeProblem',
    isList: true,
  },
  'POST /api/wishes/plan': {
    does: 'What wishes lead to, and which rule does what, without making it',
    room: 'wish',
    status: 200,
    wants: 'fetch',
    isQuestion: true,
    answer: 'WishPlan',
  },
  'POST /api/wishes': {
    does: 'Have variants made from wish sheets, each with its proof',
    room: 'wish',
    status: 202,
    wants: 'fetch',
    answer: 'OrderAnswer',
  },
  'GET /api/wishes': {
    does: 'Wish sheets and what came of them',
    room: 'wish',
    status: 200,
    wants: 'signed in',
    answer: 'WishSheetRow',
    isList: true,
  },
  'GET /api/derive/proof/rows': {
    does: 'The last proof as a document: every reference with file and line, what is wrong first',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: 'ProofDocument',
  },
  'GET /api/derive/proof/file': {
    does: 'The last proof as JSON or PDF',
    room: 'derive',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/jobs': {
    does: 'Work that goes on in the background: one’s own, and all for administrators',
    room: 'running',
    status: 200,
    wants: 'signed in',
    answer: 'JobView',
    isList: true,
  },
  'POST /api/jobs/cancel': {
    does: 'End work that waits or goes on in the background',
    room: 'running',
    status: 204,
    wants: 'signed in',
    isQuestion: true,
    answer: null,
  },
  'POST /api/jobs/retry': {
    does: 'Do work once more that failed or was ended',
    room: 'running',
    status: 204,
    wants: 'signed in',
    isQuestion: true,
    answer: null,
  },
  'GET /api/feed': {
    does: 'Kinds of what changes, as it happens',
    room: 'running',
    status: 200,
    wants: 'signed in',
    answer: { media: 'text/event-stream' },
  },
  'GET /api/fetch': {
    does: 'An item with everything below it as files that refer to one another',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/zip' },
  },
  'GET /api/fetch/plan': {
    does: 'What a fetch would hand out, without handing it out',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: 'FetchPlanAnswer',
  },
  'GET /api/fetch/joined': {
    does: 'An assembly as one STEP file, for programs that read no references',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: { media: 'model/step' },
  },
  'GET /api/file': {
    does: 'The file of a version as it was stored',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/text': {
    does: 'The text in a file, as it is found by',
    room: 'files',
    status: 200,
    wants: 'see',
    answer: 'FileTextAnswer',
  },
  'GET /api/items': {
    does: 'Items by a search',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: 'FindAnswer',
    isRemembered: true,
  },
  'GET /api/find/words': {
    does: 'What names a search may use',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: 'QueryWords',
    isRemembered: true,
  },
  'GET /api/find/counts': {
    does: 'What the items found are, counted',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: 'FindCounts',
    isRemembered: true,
  },
  'GET /api/find/ranges': {
    does: 'A property over the items found',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: 'FindRanges',
    isRemembered: true,
  },
  'GET /api/find/table': {
    does: 'What was found as a table',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: { media: 'text/csv' },
  },
  'GET /api/like/properties': {
    does: 'Items that are alike by what is said of them',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: 'LikePropertiesAnswer',
    isRemembered: true,
  },
  'GET /api/saved': {
    does: 'Searches and views that are kept',
    room: 'find',
    status: 200,
    wants: 'signed in',
    answer: 'SavedRow',
    isList: true,
  },
  'POST /api/saved': {
    does: 'Keep a search or view',
    room: 'find',
    status: 200,
    wants: 'signed in',
    answer: 'SavedRow',
    isList: true,
  },
  'DELETE /api/saved/:id': {
    does: "Throw one's own away",
    room: 'find',
    status: 200,
    wants: 'signed in',
    answer: 'SavedRow',
    isList: true,
  },
  'GET /api/intakes': {
    does: "One's sheets that are not done with",
    room: 'intake',
    status: 200,
    wants: 'signed in',
    answer: 'IntakeSheetRow',
    isList: true,
  },
  'POST /api/intakes': {
    does: 'Begin an intake, or a check-in of a working copy',
    room: 'intake',
    status: 201,
    wants: 'change',
    answer: 'IntakeView',
    mostBytes: 16_000_000,
  },
  'POST /api/intakes/archive': {
    does: 'Begin an intake of a ZIP, which is the body',
    room: 'intake',
    status: 202,
    wants: 'change',
    answer: 'IntakeView',
    upload: { media: 'application/zip', mostBytes: 2_000_000_000 },
  },
  'POST /api/intakes/split': {
    does: 'Takes a file that holds several items apart, as a sheet to be reviewed: each gets a file of its own',
    room: 'intake',
    status: 202,
    wants: 'change',
    answer: 'IntakeView',
  },
  'GET /api/intakes/:id': {
    does: 'A sheet: its review, or how far it is',
    room: 'intake',
    status: 200,
    wants: 'signed in',
    answer: 'IntakeView',
  },
  'GET /api/staged/file': {
    does: 'A file of a sheet, to be looked at',
    room: 'intake',
    status: 200,
    wants: 'signed in',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/staged/mesh': {
    does: 'The mesh of what a file of a sheet holds',
    room: 'intake',
    status: 200,
    wants: 'signed in',
    answer: { media: 'model/gltf-binary' },
  },
  'PATCH /api/intakes/:id': {
    does: 'Correct rows of a sheet',
    room: 'intake',
    status: 200,
    wants: 'signed in',
    answer: 'IntakeView',
    mostBytes: 8_000_000,
  },
  'PUT /api/intakes/:id/files': {
    does: 'Put a file, which is the body, onto a sheet',
    room: 'intake',
    status: 204,
    wants: 'signed in',
    answer: null,
    upload: { media: 'application/octet-stream', mostBytes: 2_000_000_000 },
  },
  'POST /api/intakes/:id/carry-out': {
    does: 'Carry a sheet out',
    room: 'intake',
    status: 202,
    wants: 'signed in',
    answer: 'IntakeView',
  },
  'POST /api/intakes/:id/cancel': {
    does: 'Give a sheet up, or stop it',
    room: 'intake',
    status: 200,
    wants: 'signed in',
    answer: 'IntakeView',
  },
  'GET /api/item': {
    does: 'What the store knows of one item',
    room: 'items',
    status: 200,
    wants: 'see',
    answer: 'ItemView',
    isRemembered: true,
  },
  'POST /api/items/belong': {
    does: 'Say which model a drawing or document belongs to',
    room: 'items',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
  },
  'POST /api/steps': {
    does: 'Move items from state to state: all of them, or none',
    room: 'lifecycle',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/steps/preview': {
    does: 'What a step would do, and what would be refused',
    room: 'lifecycle',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'StepPreview',
  },
  'GET /api/checks': {
    does: 'What waits for one’s decision',
    room: 'lifecycle',
    status: 200,
    wants: 'signed in',
    answer: 'CheckRow',
    isList: true,
  },
  'GET /api/history': {
    does: 'What happened to an item, newest first',
    room: 'items',
    status: 200,
    wants: 'see',
    answer: 'HistoryAnswer',
  },
  'POST /api/align/preview': {
    does: 'What aligning revision codes would change',
    room: 'lifecycle',
    status: 200,
    wants: 'release',
    answer: 'AlignAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/align': {
    does: 'Bring revision codes into line with the scheme',
    room: 'lifecycle',
    status: 200,
    wants: 'release',
    answer: 'AlignAnswer',
    mostBytes: 2_000_000,
  },
  'GET /api/like': {
    does: 'Parts shaped like one of the store',
    room: 'find',
    status: 200,
    wants: 'see',
    answer: 'LikeAnswer',
  },
  'POST /api/like': {
    does: 'Parts shaped like a STEP file, which is the body and not kept',
    room: 'find',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'LikeAnswer',
    upload: { media: 'application/octet-stream', mostBytes: 67_108_864 },
  },
  'GET /api/scene': {
    does: 'Where the meshes of everything below an item stand',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'SceneAnswer',
    isRemembered: true,
  },
  'GET /api/near': {
    does: 'What lies within a distance of uses of a scene, surface to surface',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'NearAnswer',
  },
  'GET /api/overlaps': {
    does: 'All that touches or overlaps below an item, or between two of its branches',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'OverlapsAnswer',
  },
  'GET /api/scene/traits': {
    does: 'What the colours of a scene can tell: state, holder, class, mass, age, lineage',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'TraitsAnswer',
  },
  'GET /api/scenes': {
    does: 'Scenes that were kept of an item',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'KeptScenesAnswer',
  },
  'GET /api/scenes/one': {
    does: 'A scene that was kept, with what it shows',
    room: 'structure',
    status: 200,
    wants: 'signed in',
    answer: 'KeptScene',
  },
  'POST /api/scenes': {
    does: 'Keep a scene under a name',
    room: 'structure',
    status: 201,
    wants: 'see',
    answer: 'SceneKept',
    mostBytes: 2_000_000,
  },
  'PUT /api/scenes': {
    does: 'Change a scene of one’s own',
    room: 'structure',
    status: 204,
    wants: 'signed in',
    answer: null,
    mostBytes: 2_000_000,
  },
  'POST /api/scenes/remove': {
    does: 'Take away a scene of one’s own',
    room: 'structure',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'GET /api/document': {
    does: 'A workbook as tables, or a document as flowing text',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: 'DocumentAnswer',
  },
  'GET /api/mesh': {
    does: 'The mesh of a part',
    room: 'files',
    status: 200,
    wants: 'see',
    answer: { media: 'model/gltf-binary' },
  },
  'GET /api/notices': {
    does: 'What one was told',
    room: 'notices',
    status: 200,
    wants: 'signed in',
    answer: 'NoticesAnswer',
  },
  'POST /api/notices/read': {
    does: 'Mark all as read',
    room: 'notices',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/watch': {
    does: 'Watch an item or a place, or no more',
    room: 'notices',
    status: 204,
    wants: 'see',
    answer: null,
  },
  'POST /api/password': {
    does: 'Change one’s own password',
    room: 'access',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'GET /api/preferences': {
    does: 'How one wants things shown',
    room: 'access',
    status: 200,
    wants: 'signed in',
    answer: 'Preferences',
  },
  'PUT /api/preferences': {
    does: 'Say how one wants things shown',
    room: 'access',
    status: 200,
    wants: 'signed in',
    answer: 'Preferences',
  },
  'GET /api/people': {
    does: 'Who there is',
    room: 'access',
    status: 200,
    wants: 'signed in',
    answer: 'PersonRow',
    isList: true,
  },
  'POST /api/people': {
    does: 'Make a person',
    room: 'access',
    status: 201,
    wants: 'administrator',
    answer: 'PersonRow',
  },
  'PATCH /api/people': {
    does: 'Change a person',
    room: 'access',
    status: 200,
    wants: 'administrator',
    answer: 'PersonRow',
  },
  'GET /api/places': {
    does: 'The tree of places',
    room: 'places',
    status: 200,
    wants: 'see',
    answer: 'PlaceRow',
    isList: true,
    isRemembered: true,
  },
  'POST /api/places': {
    does: 'Make a place',
    room: 'places',
    status: 204,
    wants: 'change',
    answer: null,
  },
  'POST /api/places/move': {
    does: 'Give a place another path',
    room: 'places',
    status: 204,
    wants: 'change',
    answer: null,
  },
  'GET /api/places/access': {
    does: 'Who may do what in a place',
    room: 'places',
    status: 200,
    wants: 'see',
    answer: 'PlaceAccessView',
  },
  'PUT /api/places/access': {
    does: 'Say who may do what in a place',
    room: 'places',
    status: 200,
    wants: 'administer',
    answer: 'PlaceAccessView',
  },
  'GET /api/places/papers': {
    does: 'Drawings and documents about what lies in a place, which lie outside of it',
    room: 'places',
    status: 200,
    wants: 'see',
    answer: 'AlongRow',
    isList: true,
  },
  'POST /api/items/along': {
    does: 'Drawings and documents that would go along with items',
    room: 'places',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'AlongRow',
    isList: true,
  },
  'GET /api/places/bin': {
    does: 'Places that one may bring back',
    room: 'places',
    status: 200,
    wants: 'signed in',
    answer: 'BinRow',
    isList: true,
  },
  'POST /api/places/bin': {
    does: 'Put a place into the bin, with all that lies in it',
    room: 'places',
    status: 204,
    wants: 'change',
    answer: null,
  },
  'POST /api/places/restore': {
    does: 'Bring a place back from the bin',
    room: 'places',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/items/move': {
    does: 'Move items to another place',
    room: 'places',
    status: 204,
    wants: 'change',
    answer: null,
    mostBytes: 2_000_000,
  },
  'POST /api/items/rename': {
    does: 'Give an item another name or file name',
    room: 'places',
    status: 204,
    wants: 'change',
    answer: null,
  },
  'GET /api/properties': {
    does: 'Definitions and classes',
    room: 'properties',
    status: 200,
    wants: 'signed in',
    answer: 'PropertiesAnswer',
    isRemembered: true,
  },
  'PUT /api/properties/definition': {
    does: 'Define a property',
    room: 'properties',
    status: 200,
    wants: 'administrator',
    answer: 'PropertiesAnswer',
  },
  'PUT /api/properties/class': {
    does: 'Define a class',
    room: 'properties',
    status: 200,
    wants: 'administrator',
    answer: 'PropertiesAnswer',
  },
  'POST /api/items/properties': {
    does: 'Edit properties of held items',
    room: 'properties',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'GET /api/numbers': {
    does: 'Schemes of serial numbers',
    room: 'properties',
    status: 200,
    wants: 'signed in',
    answer: 'NumberSchemeRow',
    isList: true,
    isRemembered: true,
  },
  'PUT /api/numbers': {
    does: 'Define a scheme of serial numbers',
    room: 'properties',
    status: 200,
    wants: 'administrator',
    answer: 'NumberSchemeRow',
    isList: true,
  },
  'POST /api/numbers/reserve': {
    does: 'Take serial numbers, each given once',
    room: 'properties',
    status: 200,
    wants: 'change',
    answer: 'NumbersReserved',
  },
  'GET /api/settings/title-block': {
    does: 'What the fields of title blocks mean',
    room: 'settings',
    status: 200,
    wants: 'signed in',
    answer: 'TitleBlockSetting',
  },
  'PUT /api/settings/title-block': {
    does: 'Say what the fields of title blocks mean',
    room: 'settings',
    status: 200,
    wants: 'administrator',
    answer: 'TitleBlockSetting',
  },
  'GET /api/settings/revisions': {
    does: 'How revisions are called',
    room: 'settings',
    status: 200,
    wants: 'signed in',
    answer: 'RevisionSetting',
  },
  'PUT /api/settings/revisions': {
    does: 'Say how revisions are called',
    room: 'settings',
    status: 200,
    wants: 'administrator',
    answer: 'RevisionSetting',
  },
  'GET /api/net': {
    does: 'What an item is made of, or what uses it, as a net',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'NetAnswer',
    isRemembered: true,
  },
  'GET /api/configurations': {
    does: 'Which configurations decide about an item',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'ConfigurationsAnswer',
    isRemembered: true,
  },
  'POST /api/effect': {
    does: 'What a change of items would touch',
    room: 'structure',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'EffectAnswer',
    mostBytes: 200_000,
  },
  'POST /api/common': {
    does: 'The nearest assemblies that hold all of some items',
    room: 'structure',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'EffectAnswer',
  },
  'GET /api/made': {
    does: 'What an item is made of',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'StructureAnswer',
    isRemembered: true,
  },
  'GET /api/used': {
    does: 'What uses an item',
    room: 'structure',
    status: 200,
    wants: 'see',
    answer: 'StructureAnswer',
    isRemembered: true,
  },
  'GET /api/verify': {
    does: 'Whether the store is whole',
    room: 'running',
    status: 200,
    wants: 'administrator',
    answer: 'VerifyAnswer',
  },
};
