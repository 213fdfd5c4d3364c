/** What people draw and write on a version's drawing, page, picture or model; the file is never changed by it. */

export const MARK_KINDS = ['pen', 'line', 'arrow', 'cloud', 'box', 'text', 'measure', 'pin'] as const;
export type MarkKind = (typeof MARK_KINDS)[number];

/** What it asks of whoever reads it: to change something, to answer, or just to know. */
export const MARK_TONES = ['change', 'question', 'note'] as const;
export type MarkTone = (typeof MARK_TONES)[number];

/** How many spots each kind has, at least and at most. */
export const MARK_SPOTS: Readonly<Record<MarkKind, readonly [number, number]>> = {
  pen: [2, 4000],
  line: [2, 2],
  arrow: [2, 2],
  cloud: [2, 2],
  box: [2, 2],
  text: [1, 1],
  measure: [2, 2],
  pin: [1, 2],
};

/** `x, y` in units of the sheet, page or picture, y upwards; `x, y, z` in mm in a model, of a pin with the direction of its face. */
export type MarkSpot = readonly number[];

export interface RemarkRow {
  readonly by: string;
  readonly initials: string;
  readonly at: string;
  readonly words: string;
}

export interface MarkUpRow {
  readonly id: string;
  readonly kind: MarkKind;
  readonly tone: MarkTone;
  /** Name of the sheet of a drawing, `page 3`, `model`, or empty for a picture. */
  readonly sheet: string;
  readonly spots: readonly MarkSpot[];
  readonly words: string;
  readonly by: string;
  readonly initials: string;
  readonly isMine: boolean;
  readonly at: string;
  /** Version that it was made on. */
  readonly version: string;
  readonly settledBy: string | null;
  readonly settledAt: string | null;
  readonly remarks: readonly RemarkRow[];
}

export interface MarkUpAnswer {
  readonly item: string;
  readonly version: string;
  /** Of the version, and what is open still of those before it; in the order in which they were made. */
  readonly rows: readonly MarkUpRow[];
  /** Why nothing may be drawn on this version; empty where it may. */
  readonly closed: string;
}

export interface NewMarkRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  readonly sheet: string;
  readonly kind: MarkKind;
  readonly tone: MarkTone;
  readonly spots: readonly MarkSpot[];
  readonly words: string;
}

/** Of one’s own; what is left out stays. */
export interface ChangeMarkRequest {
  readonly id: string;
  readonly tone?: MarkTone;
  readonly spots?: readonly MarkSpot[];
  readonly words?: string;
}

export interface RemarkRequest {
  readonly id: string;
  readonly words: string;
}

export interface SettleMarkRequest {
  readonly id: string;
  /** False to open it again. */
  readonly isSettled: boolean;
}

export interface MarkMade {
  readonly id: string;
}

export interface PrintRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  /** Of a drawing; empty for the first. */
  readonly sheet: string;
  /** Paper by drawing, 0.1 for 1:10; 1 where it is left out and that fits. */
  readonly scale?: number;
  /** Whether what people drew goes with it, and the list of what they wrote. */
  readonly marks: boolean;
}
