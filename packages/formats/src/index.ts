export { FormatError, KeptWhole } from './errors.js';
export { readFile, rewriteFile } from './read-file.js';
export { readStep } from './step/read.js';
export {
  editStepStructure,
  type EditedStructure,
  type ExternalProduct,
  type NamedUse,
  type StructureEdit,
  type UseTarget,
} from './step/edit-structure.js';
export { aboutAnother } from './step/renames.js';
export { rewriteStep, type RewrittenStep, type StepRenaming } from './step/rewrite.js';
export { joinStep, splitStep, type SplitPart } from './step/split.js';
export { writeStepAssembly, type StepAssembly } from './step/write.js';
export { annotateStepPart, type StepAnnotation } from './step/annotate.js';
export { StepError } from './step/errors.js';
export { decodeStepString, encodeStepString } from './step/strings.js';
export { flowOf, tablesOf, type LookTable, type LookText } from './documents/look.js';
export { recognise } from './documents/recognise.js';
export { readPartsList } from './dxf/parts-list.js';
export { readDxf } from './dxf/read.js';
export {
  blendPages,
  printDrawing,
  printImage,
  printOverlaid,
  printPages,
  printSheets,
} from './print/lazy.js';
export type { ListedMark, Printed, PrintOptions } from './print/printer.js';
export type { OverlaidPart } from './print/overlaid.js';
export { rewriteDxf, type DxfRenaming } from './dxf/rewrite.js';
export { takeCensus, type Census, type CensusInput } from './census/census.js';
export { textsOf, type CensusText } from './census/texts.js';
export { BOM_XSD, writeBomXml } from './bom/bom-xml.js';
export { CHANGE_XSD, writeChangeXml, type OutChange } from './bom/change-xml.js';
export { writeCycloneDx } from './bom/cyclonedx.js';
export type { OutBom, OutLine } from './bom/model.js';
export { writeCsv } from './tables/write-csv.js';
export { fillTemplate, standardTemplate, writePdf, writeXlsx } from './tables/lazy.js';
export type { Filled, TemplateData } from './tables/template.js';
export type { Cell, Mark, OutColumn, OutRow, OutTable } from './tables/table.js';
export { readList, type ListReading, type ListSheet } from './bom/read-list.js';
