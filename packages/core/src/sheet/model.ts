/**
 * What a drawing shows, as marks in drawing units, without the structure that its file keeps them in: blocks are put where they
 * are inserted, looks are taken from layers. Whoever draws, prints, measures or compares needs no more than this.
 */

/** A point, x to the right and y upwards, in drawing units. */
export type Spot = readonly [x: number, y: number];

export interface Layer {
  readonly name: string;
  /** Whether it is shown where nobody says otherwise. */
  readonly isOn: boolean;
  /** Whether it goes on paper. */
  readonly isPrinted: boolean;
}

export interface MarkLook {
  /** Index of the layer. */
  readonly layer: number;
  /** `#rrggbb`; null is ink. */
  readonly colour: string | null;
}

export interface LineLook extends MarkLook {
  readonly weightMm: number;
  /** Drawing units drawn and left out, one after the other; empty is drawn through. */
  readonly dashes: readonly number[];
  /** Width in drawing units, of lines that are bands; 0 where the weight says it. */
  readonly width: number;
}

/** Straight pieces from spot to spot; closed where it ends at its beginning. */
export interface Stroke {
  readonly kind: 'stroke';
  readonly look: LineLook;
  readonly spots: readonly Spot[];
}

/** Of a circle. */
export interface Arc {
  readonly kind: 'arc';
  readonly look: LineLook;
  readonly centre: Spot;
  readonly radius: number;
  /** Radians from the x axis, against the clock. */
  readonly from: number;
  /** Radians, above 0 and at most a full turn. */
  readonly sweep: number;
}

/** What lies within an odd number of rings. */
export interface Fill {
  readonly kind: 'fill';
  readonly look: MarkLook;
  readonly rings: readonly (readonly Spot[])[];
  /** Covers what lies below it with paper. */
  readonly isPaper: boolean;
}

export interface Lettering {
  readonly kind: 'lettering';
  readonly look: MarkLook;
  readonly at: Spot;
  /** Of capitals. */
  readonly height: number;
  /** Radians. */
  readonly turn: number;
  /** Width by what it would be. */
  readonly stretch: number;
  readonly across: 'left' | 'middle' | 'right';
  readonly up: 'base' | 'bottom' | 'middle' | 'top';
  readonly lines: readonly string[];
  /** From a line's base to the next. */
  readonly lineStep: number;
  /** Tag, where it is a field of a title block. */
  readonly tag: string;
}

/** A piece of paper through which marks are seen at another scale. */
export interface Opening {
  readonly kind: 'opening';
  readonly low: Spot;
  readonly high: Spot;
  /** Units of paper for a unit of what is seen. */
  readonly scale: number;
  readonly marks: readonly Mark[];
}

export type Mark = Stroke | Arc | Fill | Lettering | Opening;

/** One of the sheets of a drawing: the model itself, or paper on which it is shown. */
export interface Sheet {
  readonly name: string;
  readonly marks: readonly Mark[];
  /** Of the paper, where the file says it. */
  readonly paperMm: Spot | null;
}

export interface Undrawn {
  /** As the format calls it. */
  readonly what: string;
  readonly why: string;
  readonly count: number;
}

export interface Drawing {
  readonly layers: readonly Layer[];
  /** Those on which anything stands; first the one that is opened first. */
  readonly sheets: readonly Sheet[];
  /** Millimetres of a drawing unit; null where the file does not say. */
  readonly unitMm: number | null;
  /** What is in the file and was not drawn. */
  readonly undrawn: readonly Undrawn[];
}

/** Two corners of a box along the axes. */
export interface Extent {
  readonly low: Spot;
  readonly high: Spot;
}
