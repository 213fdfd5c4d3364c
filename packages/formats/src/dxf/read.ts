import { MAX_TEXT, type FileReading, type ProductReading, type TitleBlockField } from '@stem-trace/core';
import { FormatError } from '../errors.js';
import { isFileName, pathKey } from '../step/file-names.js';
import { entities, first, type Entity } from './entities.js';

/** Group 70 of a BLOCK: the block is another file, attached or laid over (DXF reference, BLOCK). */
const EXTERNAL = 4 | 8;

/** Objects that name a file which the drawing shows: pictures, and pages or other drawings laid under it. */
const DEFINITIONS: ReadonlySet<string> = new Set([
  'IMAGEDEF',
  'PDFDEFINITION',
  'DGNDEFINITION',
  'DWFDEFINITION',
]);
const TEXTS: ReadonlySet<string> = new Set(['TEXT', 'MTEXT', 'ATTRIB']);
/** Lettering that repeats names besides: definitions of attributes, dimensions, tolerances, leaders. */
const LETTERING: ReadonlySet<string> = new Set([
  ...TEXTS,
  'ATTDEF',
  'DIMENSION',
  'TOLERANCE',
  'MULTILEADER',
  'ACAD_TABLE',
]);
/** Groups that hold text (DXF reference, group code value types). */
const isTextGroup = (code: number): boolean => code <= 9 || (code >= 300 && code <= 309) || code === 1000;

/** A file that a drawing needs, with where it is named. */
export interface DxfReference {
  readonly ref: number;
  readonly name: string;
  readonly locator: string;
  /** Lines that name the same file elsewhere. */
  readonly repeats: readonly number[];
  /** Whether the format says that it is needed; else its name was just met. */
  readonly isKnown: boolean;
}

export interface DxfContents {
  /** Of the title block. */
  readonly fields: readonly TitleBlockField[];
  /** Of title blocks that further sheets have: insertions with the same tags. */
  readonly furtherFields: readonly TitleBlockField[];
  readonly references: readonly DxfReference[];
  readonly texts: readonly string[];
  /** Every piece of lettering, with its line. */
  readonly lettering: readonly { readonly line: number; readonly value: string }[];
  readonly layers: readonly string[];
  /** Names of blocks, folded. */
  readonly blocks: ReadonlySet<string>;
}

/**
 * What a drawing says about itself: its title block, the files that it needs, its text. One pass. `O(bytes)`.
 *
 * @throws FormatError where the file is no ASCII DXF
 */
export function readDxf(bytes: Uint8Array, fileName = ''): FileReading {
  const { fields, references: all, texts, layers } = dxfContents(bytes);
  // A drawing that names itself draws on nothing.
  const references = all.filter(({ locator }) => fileName === '' || pathKey(locator) !== pathKey(fileName));
  const unattached = references.filter(({ isKnown }) => !isKnown);
  const root = drawing();
  return {
    format: 'dxf',
    schema: 'DXF',
    products: [
      { ...root, properties: [{ name: 'layers', kind: 'number', value: layers.length, unit: '' }] },
      ...references.map(({ ref, name, locator }) => ({ ...drawing(), ref, name, locator })),
    ],
    root: 0,
    uses: references.map(({ name }, index) => ({
      parent: 0,
      child: index + 1,
      name,
      placement: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0],
      relation: 'draws on',
    })),
    titleBlock: fields,
    text: texts.join('\n').slice(0, MAX_TEXT),
    ...(unattached.length === 0
      ? {}
      : { unattached: unattached.map(({ ref, locator }) => ({ line: ref, text: locator })) }),
  };
}

export function dxfContents(bytes: Uint8Array): DxfContents {
  const collector = new Collector();
  for (const entity of entities(bytes)) collector.take(entity);
  if (!collector.sawSection) throw new FormatError('there is no SECTION in it, so it is no DXF file', 1);
  return collector.contents();
}

class Collector {
  sawSection = false;
  private section = '';
  private readonly references: (DxfReference & { repeats: number[] })[] = [];
  /** Texts that end like the name of a file, by line, where the format knows of no reference. */
  private readonly strays: { readonly line: number; readonly text: string }[] = [];
  private readonly texts: string[] = [];
  private readonly lettering: { line: number; value: string }[] = [];
  private readonly layers: string[] = [];
  private readonly blocks = new Set<string>();
  /** Fields by the insertion that they belong to; the title block is the insertion with most of them. */
  private readonly insertions: TitleBlockField[][] = [];

  take(entity: Entity): void {
    const { type } = entity;
    const before = this.references.length;
    this.takeKnown(entity);
    if (LETTERING.has(type))
      for (const { code, line, value } of entity.tags)
        if (code === 1 || code === 3) this.lettering.push({ line, value });
    if (this.section === 'HEADER') return;
    const known = this.references.length > before ? this.references.at(-1)?.ref : undefined;
    for (const { code, line, value } of entity.tags) {
      const text = value.trim();
      // Lettering may end a sentence with a name; what has no blanks is a name and nothing else.
      if (line === known || !isTextGroup(code) || !isFileName(text)) continue;
      if (!LETTERING.has(type) || !/\s/.test(text)) this.strays.push({ line, text });
    }
  }

  private takeKnown(entity: Entity): void {
    const { type } = entity;
    if (type === 'SECTION') {
      this.sawSection = true;
      this.section = first(entity, 2)?.value.trim() ?? '';
    } else if (type === 'BLOCK' && this.section === 'BLOCKS') this.takeBlock(entity);
    else if (DEFINITIONS.has(type) && this.section === 'OBJECTS') this.takeReference(entity, '');
    else if (type === 'LAYER' && this.section === 'TABLES') this.layers.push(first(entity, 2)?.value ?? '');
    else if (type === 'INSERT') this.insertions.push([]);
    else if (TEXTS.has(type)) this.takeText(entity);
  }

  contents(): DxfContents {
    const fields = this.insertions.reduce<TitleBlockField[]>(
      (most, candidate) => (candidate.length > most.length ? candidate : most),
      [],
    );
    this.settleStrays();
    const tags = new Set(fields.map(({ tag }) => tag.toLowerCase()));
    const furtherFields = this.insertions.flatMap((candidate) =>
      candidate === fields ? [] : candidate.filter(({ tag }) => tags.has(tag.toLowerCase())),
    );
    const { references, texts, lettering, layers, blocks } = this;
    return { fields, furtherFields, references, texts, lettering, layers, blocks };
  }

  /** A name met elsewhere is a further mention of a file that is known, or a file that nothing says how it is needed. */
  private settleStrays(): void {
    const known = new Map<string, { readonly repeats: number[] }>();
    for (const reference of this.references) {
      const key = pathKey(reference.locator);
      if (!known.has(key)) known.set(key, reference);
    }
    for (const { line, text } of this.strays) {
      const key = pathKey(text);
      const found = known.get(key);
      if (found) found.repeats.push(line);
      else {
        const reference = { ref: line, name: '', locator: text, repeats: [], isKnown: false };
        this.references.push(reference);
        known.set(key, reference);
      }
    }
  }

  private takeBlock(entity: Entity): void {
    this.blocks.add((first(entity, 2)?.value ?? '').toLowerCase());
    const flags = Number(first(entity, 70)?.value ?? 0);
    if ((flags & EXTERNAL) !== 0) this.takeReference(entity, first(entity, 2)?.value ?? '');
  }

  private takeReference(entity: Entity, name: string): void {
    const path = entity.tags.find(({ code, value }) => code === 1 && value.trim() !== '');
    if (!path) return;
    const locator = path.value.trim();
    this.references.push({ ref: path.line, name, locator, repeats: [], isKnown: true });
  }

  private takeText(entity: Entity): void {
    // A long MTEXT comes in pieces of group 3 before the last in group 1.
    const text =
      entity.type === 'ATTRIB'
        ? plainText(attributeText(entity))
        : plainText(
            entity.tags.flatMap(({ code, value }) => (code === 3 || code === 1 ? [value] : [])).join(''),
          );
    if (text !== '') this.texts.push(text);
    const tag = entity.type === 'ATTRIB' ? first(entity, 2) : undefined;
    // An attribute of several lines has its text again as the paragraph that is embedded in it (DXF reference, ATTRIB).
    const value =
      entity.tags.find(({ code, value: said }) => code === 1 && plainText(said) !== '') ?? first(entity, 1);
    const own = tag && value ? plainText(attributeText(entity)) : '';
    if (tag && value)
      this.insertions.at(-1)?.push({ ref: value.line, tag: tag.value.trim(), text: own || text });
  }
}

/** Text of an attribute without the paragraph that is embedded in it. */
function attributeText({ tags }: Entity): string {
  const embedded = tags.findIndex(({ code }) => code === 101);
  const own = (embedded < 0 ? tags : tags.slice(0, embedded)).filter(({ code }) => code === 1 || code === 3);
  const said = own.map(({ value }) => value).join('');
  if (plainText(said) !== '' || embedded < 0) return said;
  return tags
    .slice(embedded)
    .flatMap(({ code, value }) => (code === 1 || code === 3 ? [value] : []))
    .join('');
}

/** Text without the codes that format it (DXF reference, MTEXT): paragraphs, fonts, heights, `%%c` signs. */
export function plainText(text: string): string {
  return (
    text
      .replace(/\\[Pn]/g, '\n')
      // What a code says is short; a code without an end must not be looked for through all of the text, each time anew.
      .replace(/\\[ACFHQTWfp][^;]{0,255};/g, '')
      .replace(/\\S([^;]{0,255});/g, (_, stacked: string) => stacked.replace(/[\^#]/g, '/'))
      .replace(/\\[LlOoKk~]/g, '')
      .replace(/[{}]/g, '')
      .replace(/%%[cC]/g, '⌀')
      .replace(/%%[dD]/g, '°')
      .replace(/%%[pP]/g, '±')
      .trim()
  );
}

function drawing(): ProductReading {
  return {
    ref: 0,
    id: '',
    name: '',
    description: '',
    versionText: '',
    kind: 'drawing',
    source: 'unknown',
    properties: [],
  };
}
