export {
  IDENTITY_PLACEMENT,
  STRUCTURE_RELATIONS,
  type LinkFacts,
  type Occurrence,
  type Placement,
  type Relation,
} from './model/link.js';
export { isDay, shiftDay } from './model/day.js';
export { NOT_RELEASED } from './model/version.js';
export {
  checkEffectivity,
  effectivityFrom,
  isInEffect,
  MOST_SERIAL,
  parseSpans,
  productsIn,
  renamed,
  sayEffectivity,
  saySpans,
  type EffectiveAt,
  type Effectivity,
  type Spans,
} from './model/effectivity.js';
export {
  MAX_TEXT,
  type FileFormat,
  type FileReading,
  type ItemKind,
  type ProductReading,
  type PropertyValue,
  type Source,
  type TitleBlockField,
  type UseReading,
} from './model/reading.js';
export {
  base,
  FileIndex,
  folderOf,
  joinPath,
  normaliseLocator,
  pathsOf,
  stemOf,
  type Allowance,
  type LocatorMatch,
} from './intake/locate.js';
export {
  applyTitleBlock,
  DEFAULT_TITLE_BLOCK,
  FIELD_MEANINGS,
  type FieldMeaning,
  type TitleBlockRule,
  propertyOfField,
  redrawn,
  saysTheSame,
  titleBlockChanges,
  type TitleBlockWords,
} from './intake/title-block.js';
export { isModel, relationOf } from './intake/belonging.js';
export { planIntake } from './intake/plan.js';
export { nameFold, portableName, portablePath } from './names/portable.js';
export {
  comesIn,
  isGuess,
  placeOf,
  storedNameOf,
  storePathOf,
  type IntakeFile,
  type IntakeOptions,
  type IntakePlan,
  type IntakeRow,
  type IntakeStore,
  type KnownItem,
  type KnownLink,
  type KnownVersion,
  type LinkTarget,
  type PlannedLink,
  type Resolution,
  type RowCorrection,
  type RowStatus,
  type WorkingCopy,
  type WorkingCopyFile,
} from './intake/plan-types.js';
export {
  fileNameFor,
  MAX_NUMBER_LENGTH,
  numberKey,
  uniqueFileName,
  validateNumber,
} from './numbering/number.js';
export {
  applyRules,
  PUT_SPOTS,
  RULE_SPOTS,
  RULE_SUBJECTS,
  sayRule,
  type NameRule,
  type PutSpot,
  type RuleSpot,
  type RuleSubject,
} from './naming/rules.js';
export { countsBehind, rulesLike } from './naming/propose.js';
export { rulesByExample, withRules, type RuleCandidate, type RuleExample } from './naming/by-example.js';
export { areCompatible, parseQuantity, toSi, type Entered, type SiValue } from './quantity/quantity.js';
export {
  isSameValue,
  missingProperties,
  parseProperty,
  PROPERTY_KINDS,
  withProperties,
  type ItemClass,
  type ParsedProperty,
  type PropertyDefinition,
  type PropertyKind,
} from './properties/properties.js';
export { sayValue } from './properties/say-value.js';
export { serialNumber, validateScheme, type NumberScheme } from './numbering/scheme.js';
export {
  ALL_POWERFUL,
  rightsAt,
  RIGHTS,
  upwards,
  type Grant,
  type Grantee,
  type PlaceAccess,
  type Right,
  type Who,
} from './access/rights.js';
export { StructureGraph, type LinkEdge } from './structure/graph.js';
export type { LensFacts, VersionNode } from './model/version.js';
export { LinkIndex, NONE, type IndexLink, type IndexVersion } from './structure/link-index/link-index.js';
export {
  explodeTotals,
  topTotals,
  whereUsedSet,
  whereUsedTotals,
  type Reached,
  type Totals,
} from './structure/link-index/totals.js';
export { ItemOrder, usedPage, type PageAsk, type UsedPage } from './structure/link-index/order.js';
export { likenessByProperties, type LookedUpProperty, type PropertyLikeness } from './properties/likeness.js';
export { nearestCommon, unusedWithout } from './structure/link-index/sets.js';
export { behindItems, dagAbove, dagBelow, type LinkDag } from './structure/link-index/dag.js';
export {
  askIndex,
  indexOfGraph,
  type IndexAnswers,
  type IndexAsk,
  type IndexQuestionKind,
} from './structure/link-index/ask.js';
export { behindBy, follow, linksUnder, pickVersion } from './structure/lens.js';
export { isIn, passesOver, picksNewest, RECORDED, type Lens } from './model/lens.js';
export { addTo, known, valueAt } from './collections.js';
export { countTreeRows } from './structure/count-rows.js';
export { explode, type ExplodedRow, type TreeOptions } from './structure/explode.js';
export { topsOf, whereUsed, type UsedRow } from './structure/where-used.js';
export { invertRigid, multiply, standingOn } from './shape/placement.js';
export { sceneOf, type SceneFile, type SceneNode, type ScenePlace, type ScenePlan } from './shape/scene.js';
export { massOf, type MeshMass, type TriangleMesh } from './shape/mass.js';
export { StructureTooLarge } from './structure/errors.js';
export { compareTrees } from './bom/compare.js';
export { compareTotals } from './bom/compare-totals.js';
export {
  countDifferences,
  isSameText,
  sayDifference,
  type Aspect,
  type CompareOptions,
  type DifferenceCounts,
  type DifferenceRow,
  type DifferenceSign,
  type Differs,
  type LineSide,
  type SaidSide,
} from './bom/difference.js';
export { itemKeyOf, placesOf, waysOf, type BomLine, type LineFacts } from './bom/line.js';
export { PAIR_KEYS, type HandPair, type PairedBy, type PairKey } from './bom/pair.js';
export {
  compareThree,
  countVerdicts,
  type ThreeRow,
  type Verdict,
  type VerdictCounts,
} from './bom/three-way.js';
export {
  LEVEL_KINDS,
  LIST_FIELDS,
  mapTable,
  fieldOfHeading,
  proposeMapping,
  type LevelKind,
  type ListField,
  type ListLine,
  type ListProblem,
  type MappedTable,
  type TableCell,
  type TableMapping,
  type TableRow,
} from './bom/table-mapping.js';
export { sayPairedBy, sayWhat, type SaidRow } from './bom/say-row.js';
export { billRows, partRows, type BillRow, type PartRow } from './bom/bill.js';
export { effectOf, measureOf, type BomSum, type Contribution, type Effect } from './bom/effect.js';
export {
  AmountSum,
  AS_REQUIRED,
  decimalOf,
  grossAmount,
  isSameAmount,
  parseAmount,
  pieces,
  plusAmount,
  sayAmount,
  timesAmount,
} from './bom/amount.js';
export { BASES, ROLES, type Amount, type AmountRole, type Basis } from './model/amount.js';
export {
  checkDesignators,
  compareDesignators,
  parseDesignators,
  sayDesignators,
  type DesignatorFault,
} from './bom/designators.js';
export {
  checkFinds,
  findsFromDrawing,
  proposeFinds,
  type DrawnPart,
  type FindFault,
} from './bom/find-numbers.js';
export { matchUses, type KnownUse, type MatchedUses } from './bom/match-uses.js';
export { decisionsAsked, treeWords, type AskedDecisions, type TreeWords } from './derive/asked.js';
export { AskedError } from './derive/chains.js';
export { planLines, planRows, type PlanLine, type PlanRow, type ShownItem } from './derive/show.js';
export { numbersToGive, planDerivation, planWithSpots, sketchDerivation } from './derive/plan.js';
export { sayReason } from './derive/reasons.js';
export type {
  AddedUse,
  Becomes,
  ChangedVersion,
  Decision,
  DerivationLine,
  DerivationPlan,
  DerivationRequest,
  MadeVersion,
  OriginNode,
  OtherItem,
  PlanSpot,
  Reason,
  UseDecision,
} from './derive/types.js';
export {
  compareWorkingCopy,
  planUpdate,
  type CopiedFile,
  type CopyStatus,
  type DiskFiles,
  type PlannedCopy,
  type UpdatePlan,
} from './fetch/working-copy.js';
export { decideLines, type Decided, type TreeSpot } from './derive/decide-line.js';
export {
  proveVariant,
  withFindings,
  type ExpectedReference,
  type Proof,
  type ProofInput,
} from './derive/proof.js';
export {
  isWrong,
  proofRows,
  type ProofDocument,
  type ProofRow,
  type SaidReference,
  type Witness,
} from './derive/proof-document.js';
export { mergeUseFacts, type UseFacts } from './derive/carry-merge.js';
export {
  handOnProperties,
  knownProperties,
  mergeProperties,
  type CarryContradiction,
  type CarryDecisions,
  type CarrySide,
  type Sides,
} from './properties/merge.js';
export { proveTitleBlocks, type ExpectedField } from './derive/proof-title-block.js';
export {
  isUntouched,
  planFetch,
  relativePath,
  type FetchFile,
  type FetchPlan,
  type AbsentTarget,
  type FetchOptions,
  type FetchReference,
  type PlannedFile,
  type ProductNames,
  type RenamedProduct,
  type Renaming,
} from './fetch/plan.js';
export { guardPlan, missingFrom, type CheckInOptions, type Custody } from './custody/check-in.js';
export {
  alignRevisions,
  takeStated,
  type AlignedRevision,
  type RevisionRow,
  type StatedRevision,
} from './lifecycle/align.js';
export {
  revisionCode,
  revisionPosition,
  REVISION_SCHEMES,
  VERSION_ENDING,
  type RevisionScheme,
} from './lifecycle/revision-scheme.js';
export {
  byAttention,
  countsAsReleased,
  inLane,
  isUnfinished,
  laneOf,
  refuseChange,
  takesVersions,
} from './lifecycle/states.js';
export { SHIPPED, SHIPPED_ORDERS, SHIPPED_REQUESTS, SHIPPED_STATES } from './lifecycle/shipped.js';
export {
  CHANGE_KINDS,
  CHANGE_RELATIONS,
  COST_KINDS,
  isChange,
  NO_CHANGE,
  refuseContents,
  sumCosts,
  URGENCIES,
  type ChangeContents,
  type ChangeCost,
  type ChangeKind,
  type ChangeLine,
  type ChangeRelation,
  type ChangeTask,
  type CostKind,
  type CostSum,
  type Evidence,
  type TakesEffect,
  type Urgency,
} from './change/contents.js';
export { effectivityOf, sayChanges, sayTakesEffect } from './change/say-change.js';
export { stepsAlong } from './change/together.js';
export {
  ageDays,
  countWeeks,
  DAY_MS,
  isFinished,
  lateDays,
  sharesBy,
  timePerState,
  type BoardChange,
  type Share,
  type StateTime,
  type WeekCount,
} from './change/board.js';
export { checkDiagram } from './lifecycle/diagram-check.js';
export {
  attempt,
  type Attempted,
  rightFor,
  sayWho,
  stepsNow,
  type GivenSignature,
  type Standing,
  type StepSubject,
  type StepTaker,
} from './lifecycle/standing.js';
export { sayDone, sayMeaning, sayStep } from './lifecycle/say-step.js';
export {
  CAN_BE_ISSUED,
  DEFAULT_ISSUED,
  ISSUED_OF,
  isFlat,
  issuedFor,
  type IssuedKind,
  type IssuedOf,
  type IssuedSetting,
} from './lifecycle/issued.js';
export {
  bookOf,
  GLYPHS,
  LANES,
  SET_TO,
  valuesSet,
  webhooksOf,
  LIFECYCLE_ROLES,
  stateNamed,
  stepNamed,
  type Consequence,
  type Diagram,
  type DiagramState,
  type DiagramStep,
  type Lane,
  type SetConsequence,
  type LifecycleRole,
  type SignatureAsk,
  type StateBook,
  type StateGlyphName,
  type StepBy,
} from './lifecycle/diagram.js';
export { parseQuery } from './query/parse.js';
export { completeQuery, quoted, type Completion } from './query/complete.js';
export {
  MAX_QUERY,
  type ItemRelation,
  type ParsedQuery,
  type Query,
  type QueryProblem,
  type QueryWords,
} from './query/query.js';
export { Net, type NetLink, type NetNode } from './structure/net/net.js';
export {
  compareStates,
  isPaper,
  ownValue,
  ROLLED_UP,
  rollUp,
  sumOf,
  type RolledSum,
  type RollUp,
  type SumLine,
} from './structure/net/roll-up.js';
export {
  MAX_OUTLINE_ROWS,
  openToLevel,
  openToNodes,
  outlineRows,
  type OrderLinks,
  type OutlineRow,
} from './structure/net/outline.js';
export {
  chainCounts,
  chainsBetween,
  productsOf,
  type Chain,
  type ChainCounts,
  type Chains,
} from './structure/net/chains.js';
export {
  describeShape,
  likenessOf,
  SHAPE_DIMENSIONS,
  shapeVector,
  type Likeness,
  type ShapeDescriptor,
} from './shape/likeness.js';
export {
  BUILD_ROW_KINDS,
  COLUMN_TYPES,
  endOf,
  FIRST_BUILD_COLUMNS,
  parentsOf,
  type BuildBill,
  type BuildColumn,
  type BuildRow,
  type BuildRowKind,
  type ColumnType,
  type EngineeringBase,
  type EngineeringRow,
  type MeantDifference,
} from './build/model.js';
export { billTree, engineeringRows, newBill, treeOf, withKeys } from './build/make.js';
export {
  cellOf,
  combine,
  countsOf,
  dissolve,
  divide,
  insertRows,
  moveRow,
  moveTo,
  pasteBlock,
  refuseValue,
  removeRows,
  replaceText,
  ROW_FIELDS,
  setCell,
  setCells,
  takeWhole,
  wrap,
  type CellProblem,
  type Edited,
  type Direction,
  type Pasted,
  type Where,
} from './build/edit.js';
export {
  accountOf,
  countAccount,
  isClosed,
  type AccountCounts,
  type AccountRow,
  type AccountStatus,
} from './build/account.js';
export {
  changesFromEngineering,
  changesSince,
  type BillChanges,
  type RowChange,
  type RowChanges,
} from './build/changes.js';
export { carryOver, saySide, type Brought, type CarriedOver, type Newer } from './build/carry.js';
export {
  DELETED,
  keyOfContradiction,
  LIES_IN,
  mergeRows,
  ORDER,
  type Contradiction,
  type Decisions,
  type Merged,
  type MergeOptions,
  type MergeRow,
  type Side,
} from './build/merge.js';
export { refuseBill } from './build/refuse.js';
export { billUses } from './build/uses.js';
export {
  familyOf,
  sharesOf,
  type Commonness,
  type FamilyRow as CoreFamilyRow,
  type FamilyShares,
  type FamilyVerdict,
} from './lineage/family.js';
export { effectivityColumns, rowsThatCount } from './build/counting.js';
export {
  ALL_RULES,
  checkReadiness,
  READINESS_RULES,
  type ReadinessFacts,
  type ReadinessFailure,
  type ReadinessRule,
} from './build/readiness.js';
export {
  columnOf,
  delimiterOf,
  headKey,
  sheetsOf,
  type KnownColumns,
  type SheetColumn,
  type TableSheet,
} from './recipes/sheets.js';
