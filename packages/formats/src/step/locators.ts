import { refOf, refsOf, textOf, type StepFile } from './index-file.js';
import type { StepValue } from './records.js';

type Text = Extract<StepValue, { kind: 'text' }>;

/** One string of the file that has a part in naming another file. */
export interface LocatorText {
  readonly start: number;
  readonly end: number;
  /** What the string holds: the whole locator, just the folder, or just the file's name beside a folder. */
  readonly holds: 'locator' | 'folder' | 'name';
}

export interface ExternalFile {
  /** File name with its folder where one is given, as written; the folder and the name joined with `/`. */
  readonly locator: string;
  readonly texts: readonly LocatorText[];
  /** Product definitions, or shapes of product definitions, that the file defines. */
  readonly definitions: readonly number[];
}

/**
 * External references after the CAx-IF recommended practice for external references. A document file is
 * attached to a product definition by an applied document reference, or to the shape of the product by the
 * `external definition` property; its name may stand in the document's id, in the assigned identification or in
 * the source, and the source may hold just the folder. Blanks and `$` stand for nothing.
 */
export function readExternalFiles(file: StepFile): ExternalFile[] {
  const byDocument = new Map<number, Naming>();
  for (const id of file.idsOf('DOCUMENT_FILE')) {
    const record = file.record(id, 'DOCUMENT_FILE', 'DOCUMENT');
    byDocument.set(id, {
      documents: texts(record?.values.slice(0, 2)),
      assigned: [],
      sources: [],
      definitions: [],
      defines: false,
    });
  }
  for (const type of ['APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT', 'EXTERNAL_IDENTIFICATION_ASSIGNMENT']) {
    for (const id of file.idsOf(type)) {
      const record = file.record(id, type);
      const source = refOf(record?.values[2]);
      const sourceRecord = source === undefined ? undefined : file.record(source, 'EXTERNAL_SOURCE');
      for (const document of refsOf(record?.values[3])) {
        byDocument.get(document)?.assigned.push(...texts(record?.values.slice(0, 1)));
        byDocument.get(document)?.sources.push(...texts(sourceRecord?.values.slice(0, 1)));
      }
    }
  }
  attachDefinitions(file, byDocument);
  return [...byDocument.values()].flatMap((naming) => {
    const external = toExternalFile(naming);
    return external && naming.definitions.length > 0 ? [external] : [];
  });
}

interface Naming {
  readonly documents: Text[];
  readonly assigned: Text[];
  readonly sources: Text[];
  readonly definitions: number[];
  /** Whether the file is said to be the definition, not just a document about the product. */
  defines: boolean;
}

function attachDefinitions(file: StepFile, byDocument: ReadonlyMap<number, Naming>): void {
  for (const type of [
    'APPLIED_DOCUMENT_REFERENCE',
    'CC_DESIGN_SPECIFICATION_REFERENCE',
    'DOCUMENT_REFERENCE',
  ]) {
    for (const id of file.idsOf(type)) {
      const record = file.record(id, type);
      const document = refOf(record?.values[0]);
      if (document !== undefined) byDocument.get(document)?.definitions.push(...refsOf(record?.values[2]));
    }
  }
  for (const id of file.idsOf('PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS')) {
    const record = file.record(id, 'PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS');
    for (const document of refsOf(record?.values[4])) byDocument.get(document)?.definitions.push(id);
  }
  for (const id of file.idsOf('PROPERTY_DEFINITION_REPRESENTATION')) {
    const record = file.record(id, 'PROPERTY_DEFINITION_REPRESENTATION');
    const property = refOf(record?.values[0]);
    const representation = refOf(record?.values[1]);
    const definition = property === undefined ? undefined : file.record(property, 'PROPERTY_DEFINITION');
    if (textOf(definition?.values[0])?.toLowerCase() !== 'external definition') continue;
    const document = refOf(definition?.values[2]);
    const naming = document === undefined ? undefined : byDocument.get(document);
    if (!naming || representation === undefined) continue;
    naming.definitions.push(representation);
    naming.defines = true;
  }
}

const DESIGN_FILE = /\.(stp|step|p21|stpz|stpx)$/i;

function toExternalFile(naming: Naming): ExternalFile | undefined {
  const names = [...naming.assigned, ...naming.documents];
  const name =
    names.find(({ text }) => DESIGN_FILE.test(text)) ??
    naming.sources.find(({ text }) => DESIGN_FILE.test(text));
  const fallback = naming.assigned[0] ?? naming.documents[0] ?? naming.sources[0];
  const chosen = name ?? fallback;
  if (!chosen || !(name || naming.defines)) return undefined;
  const folder = naming.sources.find((source) => isFolder(source.text, chosen.text));
  const same = (text: Text): boolean => text.text.trim() === chosen.text.trim();
  return {
    locator: folder
      ? `${folder.text.trim().replace(/[\\/]+$/, '')}/${chosen.text.trim()}`
      : chosen.text.trim(),
    definitions: naming.definitions,
    texts: [
      ...dedupe([...names, ...naming.sources].filter(same)).map(({ start, end }) => ({
        start,
        end,
        holds: folder ? ('name' as const) : ('locator' as const),
      })),
      ...(folder ? [{ start: folder.start, end: folder.end, holds: 'folder' as const }] : []),
    ],
  };
}

/** A source is a folder when it looks like one and the name does not already carry one. */
function isFolder(source: string, name: string): boolean {
  const text = source.trim();
  return (
    text !== '' &&
    text !== name.trim() &&
    !DESIGN_FILE.test(text) &&
    /[\\/]/.test(text) &&
    !/[\\/]/.test(name) &&
    !/^[a-z]+:\/\//i.test(text)
  );
}

function dedupe(list: readonly Text[]): Text[] {
  return [...new Map(list.map((text) => [text.start, text])).values()];
}

function texts(values: readonly (StepValue | undefined)[] = []): Text[] {
  return values.flatMap((value) => {
    const text = value?.kind === 'typed' ? value.items[0] : value;
    return text?.kind === 'text' && text.text.trim() !== '' ? [text] : [];
  });
}
