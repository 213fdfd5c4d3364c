/** The area that a HATCH covers, and the lines of its pattern (DXF reference, HATCH). */
import type { DxfTag } from '../tags.js';
import { numberOf, type Entity, type Triple } from '../entities.js';
import { bulgeArc, ellipseSpots, splineSpots, sweepOf } from './curves.js';

type Flat = readonly [number, number];

export interface PatternLine {
  /** Radians. */
  readonly turn: number;
  readonly base: Flat;
  /** From one line to the next. */
  readonly offset: Flat;
  readonly dashes: readonly number[];
}

export interface Hatch {
  /** In the entity's own plane. */
  readonly rings: readonly (readonly Triple[])[];
  readonly isSolid: boolean;
  readonly pattern: readonly PatternLine[];
}

const DEGREE = Math.PI / 180;
const MOST_LINES = 4000;
const MOST_DASHES = 40_000;

/** What was announced does not come. */
class CutShort extends Error {}

/** Reads groups in the order in which they stand: their meaning depends on what came before. */
class Reader {
  private at = 0;

  constructor(private readonly tags: readonly DxfTag[]) {}

  /** The next group of a code. @throws CutShort where there is none */
  next(code: number): number {
    for (let at = this.at; at < this.tags.length; at++) {
      const tag = this.tags[at];
      if (tag?.code !== code) continue;
      this.at = at + 1;
      return Number(tag.value);
    }
    throw new CutShort();
  }

  /** The next group, if it has this code. */
  optional(code: number): number | undefined {
    const tag = this.tags[this.at];
    if (tag?.code !== code) return undefined;
    this.at++;
    return Number(tag.value);
  }

  point(code: number, elevation: number): Triple {
    return [this.next(code), this.next(code + 10), elevation];
  }

  count(code: number): number {
    const count = this.next(code);
    return Number.isInteger(count) && count >= 0 ? Math.min(count, this.tags.length) : 0;
  }
}

/** @returns undefined where it is cut short or says nothing that can be drawn */
export function readHatch(entity: Entity): Hatch | undefined {
  const reader = new Reader(entity.tags);
  try {
    const rings = readRings(reader, numberOf(entity, 30));
    if (rings.length === 0) return undefined;
    const isSolid = numberOf(entity, 70) === 1;
    return { rings, isSolid, pattern: isSolid ? [] : readPattern(reader) };
  } catch (error) {
    if (error instanceof CutShort) return undefined;
    throw error;
  }
}

function readRings(reader: Reader, elevation: number): Triple[][] {
  return Array.from({ length: reader.count(91) }, () => {
    const flags = reader.next(92);
    return (flags & 2) !== 0 ? polylineRing(reader, elevation) : edgeRing(reader, elevation);
  }).filter((ring) => ring.length > 2 && ring.every((spot) => spot.every(Number.isFinite)));
}

function polylineRing(reader: Reader, elevation: number): Triple[] {
  const hasBulge = reader.next(72) === 1;
  reader.next(73);
  const corners = Array.from({ length: reader.count(93) }, () => ({
    at: reader.point(10, elevation),
    bulge: hasBulge ? (reader.optional(42) ?? 0) : 0,
  }));
  return corners.flatMap(({ at, bulge }, index) => {
    const next = corners[(index + 1) % corners.length]?.at ?? at;
    return [at, ...(bulge === 0 ? [] : bulgeSpots(at, next, bulge).slice(1, -1))];
  });
}

/** Spots of a bulged piece, from its beginning to its end. */
function bulgeSpots(from: Triple, to: Triple, bulge: number): Triple[] {
  const { centre, radius, from: begin, sweep } = bulgeArc(from, to, bulge);
  const spots = ellipseSpots(centre, [radius, 0, 0], [0, radius, 0], { from: begin, sweep });
  return bulge > 0 ? spots : spots.reverse();
}

function edgeRing(reader: Reader, elevation: number): Triple[] {
  const ring: Triple[] = [];
  const edges = reader.count(93);
  for (let edge = 0; edge < edges; edge++) ring.push(...edgeSpots(reader, elevation));
  return ring;
}

function edgeSpots(reader: Reader, elevation: number): Triple[] {
  switch (reader.next(72)) {
    case 1:
      return [reader.point(10, elevation), reader.point(11, elevation)];
    case 2: {
      const centre = reader.point(10, elevation);
      const radius = reader.next(40);
      return turned(reader, centre, [radius, 0, 0], [0, radius, 0]);
    }
    case 3: {
      const centre = reader.point(10, elevation);
      const [x, y] = reader.point(11, 0);
      const ratio = reader.next(40);
      return turned(reader, centre, [x, y, 0], [-y * ratio, x * ratio, 0]);
    }
    case 4:
      return splineEdge(reader, elevation);
    default:
      throw new CutShort();
  }
}

/** A piece of an arc; one that runs with the clock states its angles mirrored. */
function turned(reader: Reader, centre: Triple, major: Triple, minor: Triple): Triple[] {
  const [start, end] = [reader.next(50) * DEGREE, reader.next(51) * DEGREE];
  const isForward = reader.next(73) !== 0;
  const sweep = sweepOf(start, end);
  return ellipseSpots(
    centre,
    major,
    minor,
    isForward ? { from: start, sweep } : { from: -start, sweep: -sweep },
  );
}

function splineEdge(reader: Reader, elevation: number): Triple[] {
  const degree = reader.next(94);
  const isRational = reader.next(73) === 1;
  reader.next(74);
  const [knotCount, controlCount] = [reader.count(95), reader.count(96)];
  const knots = Array.from({ length: knotCount }, () => reader.next(40));
  const weights: number[] = [];
  const control = Array.from({ length: controlCount }, () => {
    const at = reader.point(10, elevation);
    if (isRational) weights.push(reader.optional(42) ?? 1);
    return at;
  });
  return splineSpots({ degree, knots, control, weights }) ?? control;
}

function readPattern(reader: Reader): PatternLine[] {
  return Array.from({ length: reader.count(78) }, () => {
    const turn = reader.next(53) * DEGREE;
    const base: Flat = [reader.next(43), reader.next(44)];
    const offset: Flat = [reader.next(45), reader.next(46)];
    const dashes = Array.from({ length: reader.count(79) }, () => reader.next(49));
    return { turn, base, offset, dashes };
  }).filter(({ turn, base, offset }) => [turn, ...base, ...offset].every(Number.isFinite));
}

/**
 * The lines of a pattern within rings, as pairs of spots.
 *
 * @returns undefined where there would be too many to draw; then a tint tells as much
 */
export function patternLines({ rings, pattern }: Hatch): [Triple, Triple][] | undefined {
  const lines: [Triple, Triple][] = [];
  const elevation = rings[0]?.[0]?.[2] ?? 0;
  for (const { turn, base, offset, dashes } of pattern) {
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    const along = (x: number, y: number): number => (x - base[0]) * cos + (y - base[1]) * sin;
    const across = (x: number, y: number): number => (y - base[1]) * cos - (x - base[0]) * sin;
    const step = offset[1] * cos - offset[0] * sin;
    const shift = offset[0] * cos + offset[1] * sin;
    if (!(Math.abs(step) > 1e-9)) continue;
    const own = rings.map((ring) => ring.map(([x, y]): Flat => [along(x, y), across(x, y)]));
    let [low, high] = [Infinity, -Infinity];
    for (const ring of own)
      for (const [, y] of ring) [low, high] = [Math.min(low, y / step), Math.max(high, y / step)];
    const [begin, end] = [Math.ceil(low), Math.floor(high)];
    if (end - begin > MOST_LINES) return undefined;
    for (let number = begin; number <= end; number++) {
      const y = number * step;
      const crossings = crossingsOf(own, y);
      for (let at = 0; at + 1 < crossings.length; at += 2)
        for (const [from, to] of dashed(crossings[at] ?? 0, crossings[at + 1] ?? 0, dashes, number * shift)) {
          const spot = (x: number): Triple => [
            base[0] + x * cos - y * sin,
            base[1] + x * sin + y * cos,
            elevation,
          ];
          lines.push([spot(from), spot(to)]);
          if (lines.length > MOST_DASHES) return undefined;
        }
    }
  }
  return lines;
}

/** Where a line at a height meets the rings, in order. */
function crossingsOf(rings: readonly (readonly Flat[])[], y: number): number[] {
  const found: number[] = [];
  for (const ring of rings)
    ring.forEach(([x1, y1], at) => {
      const [x2, y2] = ring[(at + 1) % ring.length] ?? [x1, y1];
      if (y1 <= y !== y2 <= y) found.push(x1 + ((y - y1) / (y2 - y1)) * (x2 - x1));
    });
  return found.sort((a, b) => a - b);
}

/** What of a piece is drawn by a pattern of dashes that begins at `phase`. */
function* dashed(
  from: number,
  to: number,
  dashes: readonly number[],
  phase: number,
): Generator<readonly [number, number]> {
  const period = dashes.reduce((sum, each) => sum + Math.abs(each), 0);
  if (!(period > 0) || (to - from) / period > MOST_DASHES) {
    yield [from, to];
    return;
  }
  let at = Math.floor((from - phase) / period) * period + phase;
  // Counted, for steps that are small beside huge coordinates move nothing.
  for (let round = 0; at < to && round <= MOST_DASHES; round++) {
    for (const dash of dashes) {
      const end = at + Math.abs(dash);
      if (dash >= 0 && end >= from && at <= to) yield [Math.max(at, from), Math.min(end, to)];
      at = end;
    }
  }
}
