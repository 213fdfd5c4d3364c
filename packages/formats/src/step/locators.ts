/**
 * Every string of a STEP file that names another file.
 *
 * Exporters differ in where they say it: in the document file, in an external identification of it, in the source of that,
 * once per product or once per occurrence, with the folder in another entity, through a document that is a product of
 * its own, or somewhere that no practice knows. So names are collected first, wherever they stand, and only then asked
 * what they belong to; a name that belongs to no product is still a name.
 *
 * Sources: CAx-IF recommended practice for external references; ISO 10303-41 document_schema and
 * external_reference_schema; ISO 10303-214 and -242, documents as products; ISO 10303-21:2016 clause 10 (REFERENCE).
 */
import { addTo } from '@stem-trace/core';
import { isDesignFile, isFileName, nameKey, pathKey } from './file-names.js';
import { refOf, refsOf, textOf, type StepFile } from './index-file.js';
import type { StepRecord, StepValue } from './records.js';

type Text = Extract<StepValue, { kind: 'text' }>;

/** One string of the file that has a part in naming another file. */
export interface LocatorText {
  readonly start: number;
  readonly end: number;
  readonly text: string;
  /** What the string holds: the file's name, perhaps with its folder; just the folder; or a name as a URI. */
  readonly holds: 'locator' | 'folder' | 'uri';
}

/** A file that is named, with every string that names it. */
export interface NamedFile {
  /** Instance that names it, or the negative offset of the string where the instance may name several. */
  readonly ref: number;
  /** File name with its folder where one is given, as written; the folder and the name joined with `/`. */
  readonly locator: string;
  readonly texts: readonly LocatorText[];
  /** Instances that it is attached to: product definitions, their shapes, representations. */
  readonly definitions: readonly number[];
  /** Whether the file is said to be the definition, not just a document about the product. */
  readonly defines: boolean;
}

/** Entities whose strings name files; see the head of this file. */
export const LOCATOR_TYPES = [
  'DOCUMENT_FILE',
  'DOCUMENT',
  'APPLIED_DOCUMENT_REFERENCE',
  'CC_DESIGN_SPECIFICATION_REFERENCE',
  'DOCUMENT_REFERENCE',
  'DOCUMENT_PRODUCT_EQUIVALENCE',
  'DOCUMENT_PRODUCT_ASSOCIATION',
  'APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT',
  'EXTERNAL_IDENTIFICATION_ASSIGNMENT',
  'EXTERNAL_SOURCE',
  'KNOWN_SOURCE',
  'EXTERNALLY_DEFINED_ITEM',
  'EXTERNALLY_DEFINED_CLASS',
  'EXTERNALLY_DEFINED_GENERAL_PROPERTY',
  'EXTERNALLY_DEFINED_REPRESENTATION',
  'EXTERNALLY_DEFINED_REPRESENTATION_ITEM',
  'EXTERNALLY_DEFINED_PICTURE_REPRESENTATION_ITEM',
] as const;

/** Names that stand together in entities that refer to one another. */
interface Naming {
  readonly ref: number;
  /** Most telling first. */
  readonly names: Text[];
  readonly sources: Text[];
  readonly definitions: number[];
  /** Whether any string of it names a file, whatever it looks like. */
  readonly isFile: boolean;
  defines: boolean;
}

/**
 * Every file that the data section names. `O(instances of LOCATOR_TYPES + strings that end like file names)`.
 *
 * @param isOwnName whether a string repeats what the file says of itself: a product's id or name
 */
export function readNamedFiles(file: StepFile, isOwnName: (text: string) => boolean): NamedFile[] {
  const namings = collectNamings(file);
  attachDefinitions(file, namings);
  const named = [...namings.values()].flatMap(toNamedFiles);
  const references = file.references.map(({ id, text, start, end }): NamedFile => ({
    ref: id,
    locator: uriPath(text),
    texts: [{ start, end, text, holds: 'uri' }],
    definitions: [id],
    defines: true,
  }));
  return withStrayNames(file, [...named, ...references], isOwnName);
}

function collectNamings(file: StepFile): Map<number, Naming> {
  const namings = new Map<number, Naming>();
  const begin = (ref: number, isFile: boolean): Naming => {
    const known = namings.get(ref);
    if (known) return known;
    const naming = { ref, names: [], sources: [], definitions: [], isFile, defines: false };
    namings.set(ref, naming);
    return naming;
  };
  for (const id of file.idsOf('DOCUMENT_FILE'))
    begin(id, true).names.push(...texts(file.record(id, 'DOCUMENT_FILE', 'DOCUMENT')?.values.slice(0, 2)));
  for (const id of file.idsOf('DOCUMENT')) {
    if (namings.has(id)) continue;
    const names = texts(file.record(id, 'DOCUMENT')?.values.slice(0, 2));
    begin(id, false).names.push(...names);
  }
  const usedSources = new Set<number>();
  for (const type of ['APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT', 'EXTERNAL_IDENTIFICATION_ASSIGNMENT']) {
    for (const id of file.idsOf(type)) {
      const record = file.record(id, type);
      const names = texts(record?.values.slice(0, 1));
      const sources = sourceTexts(file, refOf(record?.values[2]), usedSources);
      const items = refsOf(record?.values[3]);
      const documents = items.flatMap((item) => namings.get(item) ?? []);
      for (const document of documents) {
        document.names.unshift(...names);
        document.sources.push(...sources);
      }
      if (documents.length > 0) continue;
      const naming = begin(id, false);
      naming.names.push(...names);
      naming.sources.push(...sources);
      naming.definitions.push(...items);
    }
  }
  for (const type of LOCATOR_TYPES) {
    if (!type.startsWith('EXTERNALLY_DEFINED')) continue;
    for (const id of file.idsOf(type)) {
      const values = file.records(id).flatMap(({ values: own }) => own);
      const naming = begin(id, false);
      naming.names.push(...texts(values));
      for (const value of values) naming.sources.push(...sourceTexts(file, refOf(value), usedSources));
    }
  }
  for (const type of ['EXTERNAL_SOURCE', 'KNOWN_SOURCE'])
    for (const id of file.idsOf(type))
      if (!usedSources.has(id)) begin(id, false).sources.push(...texts(allValues(file, id)));
  return namings;
}

function allValues(file: StepFile, id: number): StepValue[] {
  return file.records(id).flatMap(({ values }) => values);
}

function sourceTexts(file: StepFile, source: number | undefined, used: Set<number>): Text[] {
  if (source === undefined || !file.has(source)) return [];
  const record = file.record(source, 'EXTERNAL_SOURCE', 'KNOWN_SOURCE');
  if (!record) return [];
  used.add(source);
  return texts(record.values.slice(0, 1));
}

function attachDefinitions(file: StepFile, namings: ReadonlyMap<number, Naming>): void {
  const filesOf = filesOfDocuments(file);
  for (const type of [
    'APPLIED_DOCUMENT_REFERENCE',
    'CC_DESIGN_SPECIFICATION_REFERENCE',
    'DOCUMENT_REFERENCE',
  ]) {
    for (const id of file.idsOf(type)) {
      const record = file.record(id, type);
      const document = refOf(record?.values[0]);
      if (document === undefined) continue;
      for (const ref of [document, ...(filesOf.get(document) ?? [])])
        namings.get(ref)?.definitions.push(...refsOf(record?.values[2]));
    }
  }
  for (const id of file.idsOf('PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS')) {
    const record = file.record(id, 'PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS');
    for (const document of refsOf(record?.values[4])) namings.get(document)?.definitions.push(id);
  }
  for (const id of file.idsOf('PROPERTY_DEFINITION_REPRESENTATION')) {
    const record = file.record(id, 'PROPERTY_DEFINITION_REPRESENTATION');
    const property = refOf(record?.values[0]);
    const representation = refOf(record?.values[1]);
    const definition = property === undefined ? undefined : file.record(property, 'PROPERTY_DEFINITION');
    if (textOf(definition?.values[0])?.toLowerCase() !== 'external definition') continue;
    const document = refOf(definition?.values[2]);
    for (const ref of document === undefined ? [] : [document, ...(filesOf.get(document) ?? [])]) {
      const naming = namings.get(ref);
      if (!naming || representation === undefined) continue;
      naming.definitions.push(representation);
      naming.defines = true;
    }
  }
}

/** Document files by the document that a product stands for: document → formation → definitions → files. */
function filesOfDocuments(file: StepFile): Map<number, number[]> {
  const filesOfFormation = new Map<number, number[]>();
  for (const id of file.idsOf('PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS')) {
    const record = file.record(id, 'PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS');
    const formation = refOf(record?.values[2]);
    if (formation === undefined) continue;
    for (const related of [formation, refOf(productOf(file, formation)), id])
      if (related !== undefined)
        filesOfFormation.set(related, [
          ...(filesOfFormation.get(related) ?? []),
          ...refsOf(record?.values[4]),
        ]);
  }
  const files = new Map<number, number[]>();
  for (const [document, product] of documentProducts(file))
    for (const path of filesOfFormation.get(product) ?? []) addTo(files, document, path);
  return files;
}

function productOf(file: StepFile, formation: number): StepValue | undefined {
  return file.has(formation) ? file.records(formation)[0]?.values[2] : undefined;
}

/** Documents with the product, formation or definition that stands for each (ISO 10303-41 document_product_equivalence). */
export function documentProducts(file: StepFile): [document: number, product: number][] {
  return (['DOCUMENT_PRODUCT_EQUIVALENCE', 'DOCUMENT_PRODUCT_ASSOCIATION'] as const).flatMap((type) =>
    file.idsOf(type).flatMap((id): [number, number][] => {
      const record: StepRecord | undefined = file.record(id, type);
      const document = refOf(record?.values[2]);
      const product = refOf(record?.values[3]);
      return document === undefined || product === undefined ? [] : [[document, product]];
    }),
  );
}

/** The file that a naming is about, and further ones where its strings name others too. */
function toNamedFiles(naming: Naming): NamedFile[] {
  const all = dedupe([...naming.names, ...naming.sources]);
  const names = all.filter(({ text }) => isFileName(text));
  const chosen =
    names.find(({ text }) => isDesignFile(text)) ??
    names[0] ??
    (naming.isFile || naming.defines ? (naming.names[0] ?? naming.sources[0]) : undefined);
  if (!chosen) return [];
  const { ref, definitions, defines } = naming;
  const chosenKey = nameKey(chosen.text);
  const same = (text: Text): boolean => text === chosen || nameKey(text.text) === chosenKey;
  const folder = /[\\/]/.test(chosen.text)
    ? undefined
    : naming.sources.find((source) => isFolder(source.text, chosen.text));
  const withFolder = all.find((text) => same(text) && /[\\/]/.test(text.text)) ?? chosen;
  const byName = new Map<string, Text[]>();
  for (const text of names.filter((each) => !same(each))) {
    const key = nameKey(text.text);
    addTo(byName, key, text);
  }
  return [
    {
      ref,
      locator:
        folder && withFolder === chosen
          ? `${folder.text.trim().replace(/[\\/]+$/, '')}/${chosen.text.trim()}`
          : withFolder.text.trim(),
      definitions,
      defines,
      texts: [
        ...all.filter(same).map((text) => holding(text, 'locator')),
        ...(folder && withFolder === chosen ? [holding(folder, 'folder')] : []),
      ],
    },
    ...[...byName.values()].map((others): NamedFile => ({
      // No instance number: several files may be named in one instance.
      ref: -(others[0]?.start ?? ref),
      locator: others[0]?.text.trim() ?? '',
      definitions: [],
      defines: false,
      texts: others.map((text) => holding(text, 'locator')),
    })),
  ];
}

function holding({ start, end, text }: Text, holds: LocatorText['holds']): LocatorText {
  return { start, end, text, holds };
}

/** A source is a folder when it looks like one; one that says just `./` says nothing. */
function isFolder(source: string, name: string): boolean {
  const text = source.trim();
  return (
    text !== '' &&
    !/^\.?[\\/]*$/.test(text) &&
    text !== name.trim() &&
    !isFileName(text) &&
    /[\\/]/.test(text) &&
    !/^(https?|ftp|urn):/i.test(text)
  );
}

/**
 * Strings elsewhere that end like file names: those that repeat a name already known are one more mention of it, the rest
 * are files of their own that belong to no product.
 */
function withStrayNames(
  file: StepFile,
  named: readonly NamedFile[],
  isOwnName: (text: string) => boolean,
): NamedFile[] {
  const taken = new Set<number>();
  for (const { texts: own } of named) for (const { start } of own) taken.add(start);
  const strays: LocatorText[] = [];
  for (const { start, end } of file.fileNames()) {
    const text = taken.has(start) ? '' : file.textAt(start, end);
    if (isFileName(text) && !isOwnName(text)) strays.push({ start, end, text, holds: 'locator' });
  }
  if (strays.length === 0) return [...named];
  const { byPath, byName } = placesOf(named);
  const all = named.map((each) => ({ ...each, texts: [...each.texts] }));
  const stray = new Map<string, NamedFile & { texts: LocatorText[] }>();
  for (const mention of strays) {
    const { text, start } = mention;
    const name = byName.get(nameKey(text));
    const known =
      byPath.get(pathKey(text)) ?? (typeof name === 'number' && !/[\\/]/.test(text) ? name : undefined);
    if (known !== undefined) all[known]?.texts.push(mention);
    else {
      const before = stray.get(pathKey(text));
      if (before) before.texts.push(mention);
      else
        stray.set(pathKey(text), {
          ref: -start,
          locator: text.trim(),
          texts: [mention],
          definitions: [],
          defines: false,
        });
    }
  }
  return [...all, ...stray.values()];
}

/** Where names stand among those found, by path and, where it is one only, by name. */
function placesOf(named: readonly NamedFile[]): {
  byPath: ReadonlyMap<string, number>;
  byName: ReadonlyMap<string, number | 'several'>;
} {
  const byPath = new Map<string, number>();
  const byName = new Map<string, number | 'several'>();
  named.forEach(({ locator }, at) => {
    const path = pathKey(locator);
    byPath.set(path, byPath.get(path) ?? at);
    const name = nameKey(locator);
    const before = byName.get(name);
    const isSame = typeof before === 'number' && pathKey(named[before]?.locator ?? '') === path;
    if (!isSame) byName.set(name, before === undefined ? at : 'several');
  });
  return { byPath, byName };
}

/** Path of a URI without the anchor behind it; encoding is undone by whoever looks for the file. */
function uriPath(uri: string): string {
  return uri.split('#')[0] ?? '';
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
