/** How an entity is drawn: its own say, else its layer's, else that of what it was inserted by. */
import type { LineLook } from '@stem-trace/core/sheet';
import { first, numberOf, textOf, type Entity } from '../entities.js';
import { colourOf, trueColour } from './colours.js';
import type { Contents, LayerEntry } from './contents.js';

/** What an insertion hands on to entities that say "as the block". */
export interface Inherited {
  readonly look: LineLook;
  readonly lineType: string;
}

const BY_BLOCK = 0;
const BY_LAYER = 256;
const DEFAULT_WEIGHT_MM = 0.25;

/** Layers of a drawing and of those that it draws on, whose names begin with the name of their block. */
export class LayerList {
  readonly entries: LayerEntry[] = [];
  private readonly indexes = new Map<string, number>();

  add(layer: LayerEntry): number {
    const key = layer.name.toLowerCase();
    const known = this.indexes.get(key);
    if (known !== undefined) return known;
    this.indexes.set(key, this.entries.length);
    return this.entries.push(layer) - 1;
  }

  find(name: string): number | undefined {
    return this.indexes.get(name.toLowerCase());
  }
}

export class Looks {
  private readonly lineTypeScale: number;

  constructor(
    private readonly contents: Contents,
    readonly list: LayerList = new LayerList(),
    private readonly prefix = '',
  ) {
    for (const layer of contents.layers) list.add({ ...layer, name: prefix + layer.name });
    const scale = Number(contents.header.get('$LTSCALE'));
    this.lineTypeScale = scale > 0 ? scale : 1;
  }

  /** Of what nothing was inserted by. */
  plain(): Inherited {
    const layer = this.layerOf('0');
    return {
      look: { layer, colour: null, weightMm: DEFAULT_WEIGHT_MM, dashes: [], width: 0 },
      lineType: 'continuous',
    };
  }

  of(entity: Entity, by: Inherited): Inherited {
    const name = textOf(entity, 8) || '0';
    // What stands on layer 0 of a block is on the layer that the block is inserted on.
    const layer = name === '0' ? by.look.layer : this.layerOf(name);
    const entry = this.list.entries[layer];
    const own = textOf(entity, 6).toLowerCase() || 'bylayer';
    const lineType =
      own === 'bylayer'
        ? (entry?.lineType.toLowerCase() ?? 'continuous')
        : own === 'byblock'
          ? by.lineType
          : own;
    const scale = this.lineTypeScale * numberOf(entity, 48, 1);
    return {
      look: {
        ...{ layer, colour: this.colour(entity, entry, by), weightMm: this.weight(entity, entry, by) },
        ...{ dashes: this.dashes(lineType, scale), width: 0 },
      },
      lineType,
    };
  }

  indexOfHandle(handle: string): number {
    return handle === '' ? -1 : this.list.entries.findIndex((layer) => layer.handle === handle);
  }

  private colour(entity: Entity, entry: LayerEntry | undefined, by: Inherited): string | null {
    if (first(entity, 420)) return trueColour(numberOf(entity, 420));
    const number = numberOf(entity, 62, BY_LAYER);
    if (number === BY_BLOCK) return by.look.colour;
    if (number !== BY_LAYER) return colourOf(Math.abs(number));
    return entry?.trueColour === undefined ? colourOf(entry?.colour ?? 7) : trueColour(entry.trueColour);
  }

  private weight(entity: Entity, entry: LayerEntry | undefined, by: Inherited): number {
    const own = numberOf(entity, 370, -1);
    if (own === -2) return by.look.weightMm;
    const hundredths = own === -1 ? (entry?.weight ?? -3) : own;
    return hundredths >= 0 ? Math.max(hundredths, 5) / 100 : DEFAULT_WEIGHT_MM;
  }

  /** Dots become short dashes. */
  private dashes(lineType: string, scale: number): number[] {
    const pattern = this.contents.lineTypes.get(lineType) ?? [];
    const period = pattern.reduce((sum, each) => sum + Math.abs(each), 0);
    if (!(period > 0) || pattern.length > 24 || !(scale > 0)) return [];
    const dashes: number[] = [];
    for (const each of pattern) {
      const length = Math.max(Math.abs(each), period * 0.01) * scale;
      const isDrawn = each >= 0;
      // Drawn and left out take turns; two of a kind are one.
      if (isDrawn === (dashes.length % 2 === 0)) dashes.push(length);
      else dashes.push((dashes.pop() ?? 0) + length);
    }
    return dashes.length % 2 === 0 ? dashes : [...dashes, period * 0.01 * scale];
  }

  private layerOf(name: string): number {
    const full = this.prefix + name;
    return (
      this.list.find(full) ??
      this.list.add({
        ...{ name: full, colour: 7, trueColour: undefined, lineType: 'continuous', weight: -3 },
        ...{ isOn: true, isPrinted: true, handle: '' },
      })
    );
  }
}
