/** A DXF file sorted: header, tables, blocks with their entities, what stands on which sheet. */
import { FormatError } from '../../errors.js';
import { entities, first, numberOf, numbersOf, textOf, type Entity, type Triple } from '../entities.js';

/** An entity with those that belong to it: vertices of a polyline, attributes of an insertion. */
export interface Whole extends Entity {
  readonly parts: readonly Entity[];
}

export interface Block {
  readonly name: string;
  readonly base: Triple;
  /** Path of another file that it stands for, else empty. */
  readonly path: string;
  readonly wholes: Whole[];
}

export interface LayerEntry {
  readonly name: string;
  readonly colour: number;
  readonly trueColour: number | undefined;
  readonly lineType: string;
  readonly weight: number;
  readonly isOn: boolean;
  readonly isPrinted: boolean;
  readonly handle: string;
}

export interface Layout {
  readonly name: string;
  readonly order: number;
  readonly blockHandle: string;
  readonly paperMm: readonly [number, number] | null;
}

export interface Contents {
  readonly header: ReadonlyMap<string, string>;
  readonly layers: readonly LayerEntry[];
  /** Dashes by name, folded. */
  readonly lineTypes: ReadonlyMap<string, readonly number[]>;
  /** By name, folded. */
  readonly blocks: ReadonlyMap<string, Block>;
  /** Names of blocks by the handle of their record. */
  readonly blockNames: ReadonlyMap<string, string>;
  readonly model: readonly Whole[];
  /** On the paper that was open when the file was written. */
  readonly paper: readonly Whole[];
  readonly layouts: readonly Layout[];
  /** Paths of pictures by the handle of their definition. */
  readonly images: ReadonlyMap<string, string>;
}

/** Entities that are followed by what belongs to them, until SEQEND. */
const WITH_PARTS: ReadonlySet<string> = new Set(['POLYLINE', 'INSERT']);
const PARTS: ReadonlySet<string> = new Set(['VERTEX', 'ATTRIB']);

/** @throws FormatError where the file is no ASCII DXF */
export function contentsOf(bytes: Uint8Array): Contents {
  const sorter = new Sorter();
  for (const entity of entities(bytes)) sorter.take(entity);
  if (!sorter.sawSection) throw new FormatError('there is no SECTION in it, so it is no DXF file', 1);
  return sorter;
}

class Sorter implements Contents {
  sawSection = false;
  readonly header = new Map<string, string>();
  readonly layers: LayerEntry[] = [];
  readonly lineTypes = new Map<string, readonly number[]>();
  readonly blocks = new Map<string, Block>();
  readonly blockNames = new Map<string, string>();
  readonly model: Whole[] = [];
  readonly paper: Whole[] = [];
  readonly layouts: Layout[] = [];
  readonly images = new Map<string, string>();
  private section = '';
  private block: Block | undefined;
  private parts: Entity[] | undefined;

  take(entity: Entity): void {
    const { type } = entity;
    if (type === 'SECTION') {
      this.sawSection = true;
      this.section = textOf(entity, 2);
      if (this.section === 'HEADER') this.takeHeader(entity);
    } else if (type === 'ENDSEC') this.section = '';
    else if (this.section === 'TABLES') this.takeEntry(entity);
    else if (this.section === 'BLOCKS') this.takeInBlocks(entity);
    else if (this.section === 'ENTITIES')
      this.takeEntity(entity, numberOf(entity, 67) === 1 ? this.paper : this.model);
    else if (this.section === 'OBJECTS') this.takeObject(entity);
  }

  private takeHeader({ tags }: Entity): void {
    let name = '';
    for (const { code, value } of tags)
      if (code === 9) name = value.trim();
      else if (!this.header.has(name)) this.header.set(name, value.trim());
  }

  private takeEntry(entity: Entity): void {
    const name = textOf(entity, 2);
    if (entity.type === 'LAYER') {
      const colour = numberOf(entity, 62, 7);
      const flags = numberOf(entity, 70);
      const given = first(entity, 420);
      this.layers.push({
        ...{ name, colour: Math.abs(colour), trueColour: given && numberOf(entity, 420) },
        ...{ lineType: textOf(entity, 6), weight: numberOf(entity, 370, -3) },
        ...{ isOn: colour >= 0 && (flags & 1) === 0, isPrinted: numberOf(entity, 290, 1) !== 0 },
        handle: textOf(entity, 5),
      });
    } else if (entity.type === 'LTYPE') this.lineTypes.set(name.toLowerCase(), numbersOf(entity, 49));
    else if (entity.type === 'BLOCK_RECORD') this.blockNames.set(textOf(entity, 5), name.toLowerCase());
  }

  private takeInBlocks(entity: Entity): void {
    if (entity.type === 'BLOCK') {
      const name = textOf(entity, 2);
      const isElsewhere = (numberOf(entity, 70) & 4) !== 0;
      const base: Triple = [numberOf(entity, 10), numberOf(entity, 20), numberOf(entity, 30)];
      this.block = { name, base, path: isElsewhere ? textOf(entity, 1) : '', wholes: [] };
      this.blocks.set(name.toLowerCase(), this.block);
    } else if (entity.type === 'ENDBLK') this.block = undefined;
    else if (this.block) this.takeEntity(entity, this.block.wholes);
  }

  private takeEntity(entity: Entity, into: Whole[]): void {
    if (entity.type === 'SEQEND') this.parts = undefined;
    else if (PARTS.has(entity.type) && this.parts) this.parts.push(entity);
    else {
      const parts: Entity[] = [];
      into.push({ ...entity, parts });
      this.parts = WITH_PARTS.has(entity.type) ? parts : undefined;
    }
  }

  private takeObject(entity: Entity): void {
    if (entity.type === 'IMAGEDEF') this.images.set(textOf(entity, 5), textOf(entity, 1));
    if (entity.type !== 'LAYOUT') return;
    const at = entity.tags.findIndex(({ code, value }) => code === 100 && value.trim() === 'AcDbLayout');
    const own: Entity = { type: 'LAYOUT', tags: entity.tags.slice(Math.max(at, 0)) };
    const plot: Entity = { type: 'PLOT', tags: entity.tags.slice(0, Math.max(at, 0)) };
    const size = [numberOf(plot, 44), numberOf(plot, 45)] as const;
    // 0: inches; the size of paper is in millimetres whatever the plot is in (DXF reference, PLOTSETTINGS).
    this.layouts.push({
      ...{ name: textOf(own, 1), order: numberOf(own, 71), blockHandle: textOf(own, 330) },
      paperMm: size[0] > 0 && size[1] > 0 ? size : null,
    });
  }
}
