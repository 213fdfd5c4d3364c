/** Entities of lines, curves and faces. */
import type { LineLook, Mark, Spot } from '@stem-trace/core/sheet';
import { first, numberOf, numbersOf, pointOf, pointsOf, type Entity, type Triple } from '../entities.js';
import type { Whole } from './contents.js';
import { bulgeArc, ellipseSpots, splineSpots, sweepOf, throughSpots } from './curves.js';
import { line } from './marks.js';
import { evenScale, isMirrored, placed, planeOf, spotOf, type Placed, type Placing } from './placing.js';

const DEGREE = Math.PI / 180;
const TURN = 2 * Math.PI;

/** Whatever runs without an end is drawn as far as anybody would look. */
export function endless(entity: Entity, { placing }: Placed, look: LineLook, both: boolean): Mark[] {
  const [at, along] = [pointOf(entity, 10), pointOf(entity, 11)];
  const far = (by: number): Triple => [at[0] + along[0] * by, at[1] + along[1] * by, at[2] + along[2] * by];
  const reach = 1000;
  return [line(look, [spotOf(placing, far(both ? -reach : 0)), spotOf(placing, far(reach))])];
}

export function arc(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const from = numberOf(entity, 50) * DEGREE;
  return circle(entity, { placing }, look, from, sweepOf(from, numberOf(entity, 51) * DEGREE));
}

export function circle(
  entity: Entity,
  { placing }: Placed,
  look: LineLook,
  from: number,
  sweep: number,
): Mark[] {
  const plane = placed(placing, planeOf(entity));
  return [arcMark(look, plane, { centre: pointOf(entity, 10), radius: numberOf(entity, 40), from, sweep })];
}

interface PlaneArc {
  readonly centre: Triple;
  readonly radius: number;
  readonly from: number;
  readonly sweep: number;
}

/** A circle stays one where it lies flat and is stretched evenly. */
function arcMark(look: LineLook, plane: Placing, { centre, radius, from, sweep }: PlaneArc): Mark {
  const scale = evenScale(plane);
  if (scale === undefined)
    return line(
      look,
      ellipseSpots(centre, [radius, 0, 0], [0, radius, 0], { from, sweep }).map((spot) =>
        spotOf(plane, spot),
      ),
    );
  const turn = Math.atan2(plane.x[1], plane.x[0]);
  return {
    ...{ kind: 'arc', look, centre: spotOf(plane, centre), radius: radius * scale },
    // Seen from behind, it runs the other way.
    ...{ from: isMirrored(plane) ? turn - from - sweep : turn + from, sweep },
  };
}

export function ellipse(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const [centre, major] = [pointOf(entity, 10), pointOf(entity, 11)];
  const ratio = numberOf(entity, 40, 1);
  const normal: Triple = first(entity, 230) ? pointOf(entity, 210) : [0, 0, 1];
  const minor: Triple = [
    (normal[1] * major[2] - normal[2] * major[1]) * ratio,
    (normal[2] * major[0] - normal[0] * major[2]) * ratio,
    (normal[0] * major[1] - normal[1] * major[0]) * ratio,
  ];
  const from = numberOf(entity, 41);
  const sweep = sweepOf(from, numberOf(entity, 42, TURN));
  return [
    line(
      look,
      ellipseSpots(centre, major, minor, { from, sweep }).map((spot) => spotOf(placing, spot)),
    ),
  ];
}

interface Corner {
  readonly at: Triple;
  readonly bulge: number;
}

export function lightPolyline(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const elevation = numberOf(entity, 38);
  const corners: { at: [number, number, number]; bulge: number }[] = [];
  for (const { code, value } of entity.tags) {
    const last = corners.at(-1);
    if (code === 10) corners.push({ at: [Number(value), 0, elevation], bulge: 0 });
    else if (last && code === 20) last.at[1] = Number(value);
    else if (last && code === 42) last.bulge = Number(value) || 0;
  }
  const width = numberOf(entity, 43) || numberOf(entity, 40);
  return bent(corners, (numberOf(entity, 70) & 1) !== 0, placed(placing, planeOf(entity)), {
    ...look,
    width,
  });
}

/** Straight runs as strokes, bulges as arcs, so that radii can be measured. */
function bent(corners: readonly Corner[], isClosed: boolean, plane: Placing, look: LineLook): Mark[] {
  const marks: Mark[] = [];
  let run: Spot[] = [];
  const pieces = isClosed ? corners.length : corners.length - 1;
  const scaled = { ...look, width: look.width * (evenScale(plane) ?? 1) };
  const endRun = (): void => {
    if (run.length > 1) marks.push(line(scaled, run));
    run = [];
  };
  for (let piece = 0; piece < pieces; piece++) {
    const [from, to] = [corners[piece], corners[(piece + 1) % corners.length]];
    if (!from || !to) continue;
    if (run.length === 0) run.push(spotOf(plane, from.at));
    const isBent = Math.abs(from.bulge) > 1e-9 && (from.at[0] !== to.at[0] || from.at[1] !== to.at[1]);
    if (!isBent) {
      run.push(spotOf(plane, to.at));
      continue;
    }
    endRun();
    marks.push(arcMark(scaled, plane, bulgeArc(from.at, to.at, from.bulge)));
  }
  endRun();
  return marks;
}

export function polyline(entity: Whole, { placing }: Placed, look: LineLook): Mark[] {
  const flags = numberOf(entity, 70);
  const isClosed = (flags & 1) !== 0;
  if ((flags & 64) !== 0) return polyfaces(entity, { placing }, look);
  if ((flags & 16) !== 0) return wires(entity, { placing }, look, flags);
  // Control points of a smoothed line stand beside the points of the line itself.
  const vertices = entity.parts.filter((part) => (flags & 4) === 0 || (numberOf(part, 70) & 16) === 0);
  const corners = vertices.map((part) => ({ at: pointOf(part, 10), bulge: numberOf(part, 42) }));
  if ((flags & 8) !== 0) {
    const spots = corners.map(({ at }) => spotOf(placing, at));
    return spots.length < 2 ? [] : [line(look, isClosed ? [...spots, spots[0] ?? [0, 0]] : spots)];
  }
  const elevation = numberOf(entity, 30);
  const flat = corners.map(({ at, bulge }): Corner => ({ at: [at[0], at[1], elevation], bulge }));
  return bent(flat, isClosed, placed(placing, planeOf(entity)), { ...look, width: numberOf(entity, 40) });
}

/** A net of `m` by `n` points. */
function wires(entity: Whole, { placing }: Placed, look: LineLook, flags: number): Mark[] {
  const spots = entity.parts.map((part) => spotOf(placing, pointOf(part, 10)));
  const [m, n] = [Math.trunc(numberOf(entity, 71)), Math.trunc(numberOf(entity, 72))];
  if (m < 2 || n < 2 || m * n > spots.length) return [];
  const row = (at: number): Spot[] => spots.slice(at * n, at * n + n);
  const column = (at: number): Spot[] =>
    Array.from({ length: m }, (_, each) => spots[each * n + at] ?? [0, 0]);
  const ended = (run: Spot[], isRound: boolean): Mark =>
    line(look, isRound && run[0] ? [...run, run[0]] : run);
  return [
    ...Array.from({ length: m }, (_, at) => ended(row(at), (flags & 32) !== 0)),
    ...Array.from({ length: n }, (_, at) => ended(column(at), (flags & 1) !== 0)),
  ];
}

/** Faces that name their corners by number; a negative one begins an edge that is not to be seen. */
function polyfaces(entity: Whole, { placing }: Placed, look: LineLook): Mark[] {
  const isFace = (part: Entity): boolean => (numberOf(part, 70) & 192) === 128;
  const spots = entity.parts
    .filter((part) => !isFace(part))
    .map((part) => spotOf(placing, pointOf(part, 10)));
  const drawn = new Set<string>();
  return entity.parts.filter(isFace).flatMap((part) => {
    const corners = [71, 72, 73, 74].map((code) => numberOf(part, code)).filter((corner) => corner !== 0);
    return corners.flatMap((corner, at) => {
      const [a, b] = [Math.abs(corner), Math.abs(corners[(at + 1) % corners.length] ?? 0)];
      const [from, to] = [spots[a - 1], spots[b - 1]];
      // An edge that two faces share is one line.
      const edge = a < b ? `${a} ${b}` : `${b} ${a}`;
      if (corner < 0 || !from || !to || drawn.has(edge)) return [];
      drawn.add(edge);
      return [line(look, [from, to])];
    });
  });
}

export function spline(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const control = pointsOf(entity, 10);
  const through = pointsOf(entity, 11);
  const degree = numberOf(entity, 71, 3);
  const weights = numbersOf(entity, 41);
  const spots =
    splineSpots({ degree, knots: numbersOf(entity, 40), control, weights }) ??
    throughSpots(through.length > 1 ? through : control, (numberOf(entity, 70) & 1) !== 0);
  return spots.length < 2
    ? []
    : [
        line(
          look,
          spots.map((spot) => spotOf(placing, spot)),
        ),
      ];
}

/** Four corners, of which the last two are given crosswise (DXF reference, SOLID). */
export function area(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const plane = placed(placing, planeOf(entity));
  const corners = [10, 11, 13, 12].flatMap((code) =>
    first(entity, code) ? [spotOf(plane, pointOf(entity, code))] : [],
  );
  return corners.length < 3 ? [] : [{ kind: 'fill', look, rings: [corners], isPaper: false }];
}

export function face(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const hidden = numberOf(entity, 70);
  const corners = [10, 11, 12, 13].map((code) =>
    spotOf(placing, pointOf(entity, first(entity, code) ? code : 12)),
  );
  return corners.flatMap((from, at) => {
    const to = corners[(at + 1) % 4];
    const isPiece = to && (from[0] !== to[0] || from[1] !== to[1]);
    return isPiece && (hidden & (1 << at)) === 0 ? [line(look, [from, to])] : [];
  });
}

/** Several lines beside each other: each corner says how far along its mitre they lie. */
export function multiline(entity: Entity, { placing }: Placed, look: LineLook): Mark[] {
  const corners: { at: number[]; mitre: number[]; offsets: number[] }[] = [];
  let isCounted = 0;
  for (const { code, value } of entity.tags) {
    const number = Number(value);
    const last = corners.at(-1);
    if (code === 11) corners.push({ at: [number, 0, 0], mitre: [0, 0, 0], offsets: [] });
    else if (!last) continue;
    else if (code === 21) last.at[1] = number;
    else if (code === 31) last.at[2] = number;
    else if (code === 13) last.mitre[0] = number;
    else if (code === 23) last.mitre[1] = number;
    else if (code === 33) last.mitre[2] = number;
    else if (code === 74) isCounted = 0;
    // The first of an element's numbers is its distance; the rest are gaps.
    else if (code === 41 && isCounted++ === 0) last.offsets.push(number);
  }
  const isClosed = (numberOf(entity, 71) & 2) !== 0;
  const elements = corners[0]?.offsets.length ?? 0;
  return Array.from({ length: elements }, (_, element) => {
    const spots = corners.map(({ at, mitre, offsets }) => {
      const away = offsets[element] ?? 0;
      const [x, y, z] = [0, 1, 2].map((axis) => (at[axis] ?? 0) + (mitre[axis] ?? 0) * away);
      return spotOf(placing, [x ?? 0, y ?? 0, z ?? 0]);
    });
    return line(look, isClosed && spots[0] ? [...spots, spots[0]] : spots);
  });
}
