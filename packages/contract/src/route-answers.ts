/** What is answered to each route, which the clients' answers get their types from. */
import type { Proof, ProofDocument, QueryWords, RevisionScheme, TitleBlockRule } from '@stem-trace/core';

import type { BinRow, EntryRow, PersonRow, PlaceAccessView, Preferences } from './access.js';
import type { AuditAnswer } from './audit.js';
import type { BillAnswer, ColumnSet, FindProposal, ListView } from './bom.js';
import type {
  ChangeMade,
  ChangeMapAnswer,
  ChangeRow,
  ChangeView,
  MyTaskRow,
  RedlineAnswer,
} from './change.js';
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
import type {
  AlignAnswer,
  CheckRow,
  CustodyAnswer,
  HoldRow,
  NoticesAnswer,
  OfferedStep,
  StepAnswer,
  StepPreview,
} from './custody.js';
import type { SheetRow, SheetView, Substitution } from './check.js';
import type {
  LifecycleChecked,
  LifecycleRow,
  LifecyclesAnswer,
  LifecycleVersionRow,
  MoveOnAnswer,
} from './lifecycle.js';
import type { HistoryAnswer } from './history.js';
import type {
  DocumentAnswer,
  KeptScene,
  KeptScenesAnswer,
  OverlapsAnswer,
  OverlapsProgress,
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
import type { IssuedFileRow, IssuedFilesSetting, IssuedFromRow } from './issued.js';
import type { DeliveryRow, WebhookMade, WebhookRow } from './webhooks.js';
import type { NoticeSettingAnswer } from './notices.js';
import type { FileTextAnswer, ItemView, PersonView } from './items.js';
import type { ConfigurationsAnswer, EffectAnswer, NetAnswer } from './net.js';
import type { AlongRow, PlaceRow, VerifyAnswer } from './places.js';
import type { NumberSchemeRow, PropertiesAnswer } from './properties.js';
import type { BaselineRow, NearAnswer, SceneAnswer, StructureAnswer } from './structure.js';
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

/** A name of the IANA time zone database: `Europe/Berlin`. */
export interface ZoneSetting {
  readonly zone: string;
}

export interface RevisionSetting {
  readonly scheme: RevisionScheme;
  /** Into which the code is written when a revision is opened after another; empty for none. */
  readonly property: string;
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
  'PUT /api/effectivity': undefined;
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
  'POST /api/steps': StepAnswer;
  'POST /api/steps/offered': OfferedStep[];
  'GET /api/sheets': SheetRow[];
  'GET /api/sheets/:id': SheetView;
  'POST /api/sheets/seen': undefined;
  'POST /api/sheets/pass': null;
  'GET /api/substitute': Substitution;
  'PUT /api/substitute': Substitution;
  'POST /api/sheets/points': undefined;
  'POST /api/sheets/points/answer': undefined;
  'POST /api/sheets/points/close': undefined;
  'GET /api/changes': readonly ChangeRow[];
  'POST /api/changes': ChangeMade;
  'GET /api/change': ChangeView;
  'PUT /api/change': ChangeMade;
  'POST /api/change/tick': undefined;
  'POST /api/change/makes': CustodyAnswer;
  'POST /api/change/leaves': CustodyAnswer;
  'POST /api/change/join': undefined;
  'GET /api/change/redline': RedlineAnswer;
  'GET /api/change/redline/file': Uint8Array;
  'GET /api/change.xsd': string;
  'GET /api/change/map': ChangeMapAnswer;
  'GET /api/tasks': readonly MyTaskRow[];
  'GET /api/record/sheet': Uint8Array;
  'GET /api/record': Uint8Array;
  'GET /api/issued': readonly IssuedFileRow[];
  'GET /api/issued/from': readonly IssuedFromRow[];
  'GET /api/issued/file': Uint8Array;
  'POST /api/issued/again': null;
  'GET /api/settings/issued': IssuedFilesSetting;
  'PUT /api/settings/issued': IssuedFilesSetting;
  'GET /api/webhooks': readonly WebhookRow[];
  'POST /api/webhooks': WebhookMade;
  'DELETE /api/webhooks/:id': readonly WebhookRow[];
  'POST /api/webhooks/test': DeliveryRow;
  'GET /api/webhooks/:id/log': readonly DeliveryRow[];
  'GET /api/lifecycles': LifecyclesAnswer;
  'GET /api/lifecycles/:id/versions': LifecycleVersionRow[];
  'POST /api/lifecycles/check': LifecycleChecked;
  'POST /api/lifecycles': LifecycleRow;
  'POST /api/lifecycles/move-on/preview': MoveOnAnswer;
  'POST /api/lifecycles/move-on': MoveOnAnswer;
  'POST /api/align/preview': AlignAnswer;
  'POST /api/align': AlignAnswer;
  'GET /api/like': LikeAnswer;
  'POST /api/like': LikeAnswer;
  'GET /api/scene': SceneAnswer;
  'GET /api/near': NearAnswer;
  'GET /api/overlaps': OverlapsAnswer;
  'POST /api/overlaps': OverlapsProgress;
  'GET /api/scene/traits': TraitsAnswer;
  'GET /api/scenes': KeptScenesAnswer;
  'GET /api/scenes/one': KeptScene;
  'POST /api/scenes': SceneKept;
  'PUT /api/scenes': undefined;
  'POST /api/scenes/remove': undefined;
  'GET /api/document': DocumentAnswer;
  'GET /api/mesh': Uint8Array;
  'POST /api/meshes': Uint8Array;
  'GET /api/notices': NoticesAnswer;
  'POST /api/notices/read': undefined;
  'GET /api/notices/ways': NoticeSettingAnswer;
  'PUT /api/notices/ways': NoticeSettingAnswer;
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
  'GET /api/settings/zone': ZoneSetting;
  'PUT /api/settings/zone': ZoneSetting;
  'GET /api/settings/revisions': RevisionSetting;
  'PUT /api/settings/revisions': RevisionSetting;
  'GET /api/net': NetAnswer;
  'GET /api/baselines': readonly BaselineRow[];
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
