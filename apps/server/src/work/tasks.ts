/**
 * What is worked out on threads: whatever grows with trees, sheets or files. A task has plain data in and out, and its answer
 * leaves the thread as the bytes of JSON that are sent to whoever asked.
 */
import type {
  BeginRequest,
  BeginResult,
  BillAnswer,
  BuildAnswer,
  CarryAnswer,
  CarryOverPlan,
  CarryOverRequest,
  CarryOverResult,
  CarryRequest,
  ChangeReference,
  CompareAnswer,
  DerivePreview,
  DeriveProposal,
  DeriveRequest,
  DeriveResult,
  EffectAnswer,
  FamilyAnswer,
  FileAnswer,
  FindProposal,
  LensText,
  NewBillRequest,
  NewRecipeRequest,
  OverlapsAnswer,
  OverlapsQuestion,
  PlanGround,
  PrintRequest,
  ReadinessAnswer,
  RecipeView,
  RedlineAnswer,
  RedlineFileRequest,
  SaveBillRequest,
  SaveRecipeRequest,
  StemAnswer,
  ThreeAnswer,
  TraitsAnswer,
  VersionMade,
  WishPlan,
  WishPlanRequest,
} from '@stem-trace/contract';
import type {
  ConfigurationsAnswer,
  EffectRequest,
  IntakeView,
  NetAnswer,
  NearAnswer,
  SceneAnswer,
  StructureAnswer,
} from '@stem-trace/contract';
import type { Recipe, RecipeProblem } from '@stem-trace/core/recipes';
import type { Proof, ProofDocument } from '@stem-trace/core';
import type { BillFileRequest } from '../bom/bill-file.service.js';
import type { BillRequest } from '../bom/bill.service.js';
import type { CompareFileRequest } from '../compare/compare-file.service.js';
import type { CompareRequest, CompareThreeRequest } from '../compare/compare.service.js';
import type { JoinRequest } from '../fetch/join.service.js';
import type { ProofFormat } from '../derive/proof-file.js';
import type { CarriedOut } from '../intake/intake-carrier.js';
import type { NearRequest } from '../meshes/near.service.js';
import type { SceneRequest } from '../meshes/scene.service.js';
import type { JobRef } from '../queue/job-progress.js';
import type { WishOutcome } from '../wish/wishes.service.js';
import type { NetRequest } from '../structure/net.service.js';
import type { StructureRequest } from '../structure/structure.service.js';

interface ItemUnderLens {
  readonly item: string;
  readonly lens: LensText;
}

/** Input and answer of each task. */
export interface WorkTasks {
  made: [input: StructureRequest, answer: StructureAnswer];
  used: [input: StructureRequest, answer: StructureAnswer];
  net: [input: NetRequest, answer: NetAnswer];
  effect: [input: EffectRequest, answer: EffectAnswer];
  configurations: [input: { readonly item: string }, answer: ConfigurationsAnswer];
  bill: [input: BillRequest, answer: BillAnswer];
  'bill finds': [input: { readonly item: string }, answer: FindProposal];
  'bill file': [input: BillFileRequest, answer: FileAnswer];
  build: [input: { readonly bill: string }, answer: BuildAnswer];
  'build new': [input: NewBillRequest & { readonly at?: Date }, answer: VersionMade];
  'build save': [input: SaveBillRequest & { readonly at?: Date }, answer: VersionMade];
  'build carry': [input: { readonly bill: string }, answer: CarryAnswer];
  'build carry out': [input: CarryRequest & { readonly at?: Date }, answer: VersionMade];
  'build check': [input: { readonly bill: string }, answer: ReadinessAnswer];
  compare: [input: CompareRequest, answer: CompareAnswer];
  'compare file': [input: CompareFileRequest, answer: FileAnswer];
  'compare three': [input: CompareThreeRequest, answer: ThreeAnswer];
  redline: [input: ChangeReference, answer: RedlineAnswer];
  /** Makes an issued file and puts it beside its version. */
  issue: [input: { readonly file: string }, answer: null];
  'record of item': [input: { readonly item: string }, answer: FileAnswer];
  'record of sheet': [input: { readonly id: string }, answer: FileAnswer];
  'redline file': [input: RedlineFileRequest, answer: FileAnswer];
  stem: [input: ItemUnderLens, answer: StemAnswer];
  family: [input: ItemUnderLens, answer: FamilyAnswer];
  scene: [input: SceneRequest, answer: SceneAnswer];
  near: [input: NearRequest, answer: NearAnswer];
  overlaps: [input: { readonly question: OverlapsQuestion; readonly job?: JobRef }, answer: OverlapsAnswer];
  traits: [input: SceneRequest, answer: TraitsAnswer];
  'derive preview': [input: DeriveRequest, answer: DerivePreview];
  'derive ground': [input: DeriveRequest, answer: PlanGround];
  begin: [input: BeginRequest & { readonly at: Date }, answer: BeginResult];
  'derive proposal': [input: { readonly item: string }, answer: DeriveProposal];
  'fetch split': [input: { readonly item: string }, answer: FileAnswer];
  'fetch joined': [input: JoinRequest, answer: FileAnswer];
  recipe: [input: { readonly item: string }, answer: RecipeView];
  'recipe check': [input: { readonly recipe: Recipe }, answer: readonly RecipeProblem[]];
  'recipe new': [input: NewRecipeRequest & { readonly at: Date }, answer: VersionMade];
  'recipe save': [input: SaveRecipeRequest & { readonly at: Date }, answer: VersionMade];
  'wish plan': [input: WishPlanRequest, answer: WishPlan];
  wish: [input: { readonly sheet: string; readonly at: Date }, answer: WishOutcome];
  'carry over': [input: { readonly item: string }, answer: CarryOverPlan];
  'carry over out': [input: CarryOverRequest & { readonly at: Date }, answer: CarryOverResult];
  'proof document': [input: { readonly item: string }, answer: ProofDocument];
  'proof file': [input: { readonly item: string; readonly format: ProofFormat }, answer: FileAnswer];
  print: [input: PrintRequest, answer: FileAnswer];
  proof: [input: { readonly item: string; readonly job?: JobRef }, answer: Proof];
  'intake view': [input: { readonly id: string }, answer: IntakeView];
  derive: [input: DeriveRequest & { readonly at: Date }, answer: DeriveResult];
  'intake carry out': [
    input: { readonly id: string; readonly at: Date; readonly job?: JobRef },
    answer: CarriedOut,
  ];
}

export type WorkKind = keyof WorkTasks;
export type WorkInput<K extends WorkKind> = WorkTasks[K][0];
export type WorkAnswer<K extends WorkKind> = WorkTasks[K][1];

/** Tasks that write structure; one thread does them one after another, since they take turns anyway. */
export const WRITING: ReadonlySet<WorkKind> = new Set([
  'begin',
  'derive',
  'intake carry out',
  'build new',
  'build save',
  'build carry out',
  'carry over out',
  'recipe new',
  'recipe save',
  'wish',
]);

/** Longest that a task may take, in milliseconds; five minutes where nothing is said. */
export const TIME_LIMITS_MS: Readonly<Partial<Record<WorkKind, number>>> = {
  made: 30_000,
  used: 30_000,
  net: 30_000,
  effect: 60_000,
  configurations: 30_000,
  bill: 30_000,
  'bill finds': 30_000,
  'bill file': 60_000,
  build: 30_000,
  'build carry': 60_000,
  'build check': 60_000,
  compare: 60_000,
  'compare file': 120_000,
  'compare three': 60_000,
  stem: 120_000,
  family: 120_000,
  scene: 30_000,
  near: 60_000,
  overlaps: 900_000,
  traits: 30_000,
  'derive preview': 60_000,
  'derive ground': 60_000,
  'derive proposal': 60_000,
  'proof document': 120_000,
  'wish plan': 120_000,
  'carry over': 120_000,
  'carry over out': 900_000,
  wish: 900_000,
  'proof file': 120_000,
  'fetch joined': 600_000,
  issue: 900_000,
  'fetch split': 600_000,
  print: 120_000,
  proof: 900_000,
  'intake view': 120_000,
  derive: 900_000,
  'intake carry out': 3_600_000,
};
