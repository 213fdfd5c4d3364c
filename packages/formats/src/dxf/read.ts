import { MAX_TEXT, type FileReading, type ProductReading, type TitleBlockField } from '@stem-trace/core';
import { FormatError } from '../errors.js';
import { readTags, type DxfTag } from './tags.js';

/** Group 70 of a BLOCK: the block is another file, attached or laid over (DXF reference, BLOCK). */
const EXTERNAL = 4 | 8;

/** Objects that name a file which the drawing shows: pictures and PDF pages laid under it. */
const DEFINITIONS: ReadonlySet<string> = new Set(['IMAGEDEF', 'PDFDEFINITION']);
const TEXTS: ReadonlySet<string> = new Set(['TEXT', 'MTEXT', 'ATTRIB']);

/** A file that a drawing needs, with where it is named. */
export interface DxfReference {
  readonly ref: number;
  readonly name: string;
  readonly locator: string;
}

export interface DxfContents {
  readonly fields: readonly TitleBlockField[];
  readonly references: readonly DxfReference[];
  readonly texts: readonly string[];
  readonly layers: readonly string[];
}

/** One entity, object or table entry: its groups until the next group 0. */
interface Entity {
  readonly type: string;
  readonly tags: readonly DxfTag[];
}

/**
 * What a drawing says about itself: its title block, the files that it needs, its text. One pass. `O(bytes)`.
 *
 * @throws FormatError where the file is no ASCII DXF
 */
export function readDxf(bytes: Uint8Array): FileReading {
  const { fields, references, texts, layers } = dxfContents(bytes);
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
  };
}

export function dxfContents(bytes: Uint8Array): DxfContents {
  const collector = new Collector();
  for (const entity of entities(bytes)) collector.take(entity);
  if (!collector.sawSection) throw new FormatError('there is no SECTION in it, so it is no DXF file', 1);
  return collector.contents();
}

function* entities(bytes: Uint8Array): Generator<Entity> {
  let type: string | undefined;
  let tags: DxfTag[] = [];
  for (const tag of readTags(bytes)) {
    if (tag.code !== 0) {
      tags.push(tag);
      continue;
    }
    if (type !== undefined) yield { type, tags };
    type = tag.value.trim();
    tags = [];
  }
  if (type !== undefined) yield { type, tags };
}

class Collector {
  sawSection = false;
  private section = '';
  private readonly references: DxfReference[] = [];
  private readonly texts: string[] = [];
  private readonly layers: string[] = [];
  /** Fields by the insertion that they belong to; the title block is the insertion with most of them. */
  private readonly insertions: TitleBlockField[][] = [];

  take(entity: Entity): void {
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
    return { fields, references: this.references, texts: this.texts, layers: this.layers };
  }

  private takeBlock(entity: Entity): void {
    const flags = Number(first(entity, 70)?.value ?? 0);
    if ((flags & EXTERNAL) !== 0) this.takeReference(entity, first(entity, 2)?.value ?? '');
  }

  private takeReference(entity: Entity, name: string): void {
    const path = entity.tags.find(({ code, value }) => code === 1 && value.trim() !== '');
    if (path) this.references.push({ ref: path.line, name, locator: path.value.trim() });
  }

  private takeText(entity: Entity): void {
    // A long MTEXT comes in pieces of group 3 before the last in group 1.
    const text = plainText(
      entity.tags.flatMap(({ code, value }) => (code === 3 || code === 1 ? [value] : [])).join(''),
    );
    if (text === '') return;
    this.texts.push(text);
    const tag = entity.type === 'ATTRIB' ? first(entity, 2) : undefined;
    const value = first(entity, 1);
    if (tag && value) this.insertions.at(-1)?.push({ ref: value.line, tag: tag.value.trim(), text });
  }
}

function first({ tags }: Entity, code: number): DxfTag | undefined {
  return tags.find((tag) => tag.code === code);
}

/** Text without the codes that format it (DXF reference, MTEXT): paragraphs, fonts, heights, `%%c` signs. */
export function plainText(text: string): string {
  return text
    .replace(/\\[Pn]/g, '\n')
    .replace(/\\[ACFHQTWfp][^;]*;/g, '')
    .replace(/\\S([^;]*);/g, (_, stacked: string) => stacked.replace(/[\^#]/g, '/'))
    .replace(/\\[LlOoKk~]/g, '')
    .replace(/[{}]/g, '')
    .replace(/%%[cC]/g, '⌀')
    .replace(/%%[dD]/g, '°')
    .replace(/%%[pP]/g, '±')
    .trim();
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
