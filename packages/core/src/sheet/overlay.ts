/**
 * Two states of a sheet laid over each other. Lines are compared by where they run, not by how the file cuts them into pieces:
 * what lies on one straight line, or on one circle, is put together into stretches, and stretches are subtracted. Looks are not
 * compared.
 */
import { around, extentOf } from './extent.js';
import type { Arc, Extent, Fill, Lettering, LineLook, Mark, Sheet, Spot, Stroke } from './model.js';

export type PlainMark = Stroke | Arc | Fill | Lettering;

export interface Overlay {
  readonly onlyFirst: readonly PlainMark[];
  readonly onlySecond: readonly PlainMark[];
  readonly both: readonly PlainMark[];
  /** Where they differ: boxes around what lies near together, row by row as one reads. */
  readonly places: readonly Extent[];
  /** How near two spots are that are one, in drawing units. */
  readonly tolerance: number;
}

const TURN = 2 * Math.PI;
/** Differences nearer than this part of the sheet's diagonal are one place. */
const TOGETHER = 0.012;
/** Spots nearer than this part of the diagonal are one; files are written with six to sixteen places. */
const SAME = 2e-6;

/** `O(n log n)` in the pieces of both. */
export function overlayOf(first: Sheet, second: Sheet): Overlay {
  const all = around(
    [first, second].flatMap(({ marks }) => {
      const extent = extentOf(marks);
      return extent ? [extent] : [];
    }),
  );
  const diagonal = all ? Math.hypot(all.high[0] - all.low[0], all.high[1] - all.low[1]) : 1;
  const tolerance = Math.max(diagonal * SAME, Number.MIN_VALUE);
  const middle: Spot = all ? [(all.low[0] + all.high[0]) / 2, (all.low[1] + all.high[1]) / 2] : [0, 0];
  const compared = new Comparison(tolerance, diagonal, middle);
  for (const mark of flat(first.marks)) compared.add(mark, 0);
  for (const mark of flat(second.marks)) compared.add(mark, 1);
  const { onlyFirst, onlySecond, both } = compared.result();
  const places = gathered([...onlyFirst, ...onlySecond], diagonal * TOGETHER);
  return { onlyFirst, onlySecond, both, places, tolerance };
}

/** Marks with what is seen through openings; openings keep what they show within them. */
export function* flat(marks: Iterable<Mark>): Generator<PlainMark> {
  for (const mark of marks) {
    if (mark.kind === 'opening') yield* flat(mark.marks);
    else yield mark;
  }
}

type Side = 0 | 1;
type Stretch = readonly [from: number, to: number];

/** What lies on one line, or on one circle, by where along it. */
interface Track {
  readonly stretches: readonly [Stretch[], Stretch[]];
  /** The mark between two places along it. */
  readonly cut: (stretch: Stretch) => PlainMark;
}

class Comparison {
  private readonly tracks = new Map<string, Track>();
  private readonly wholes = new Map<string, [PlainMark[], PlainMark[]]>();

  constructor(
    private readonly tolerance: number,
    private readonly diagonal: number,
    /** Lines are placed as seen from here, so that a small error of a direction moves them little. */
    private readonly middle: Spot,
  ) {}

  add(mark: PlainMark, side: Side): void {
    if (mark.kind === 'stroke') this.addStroke(mark, side);
    else if (mark.kind === 'arc') this.addArc(mark, side);
    else this.addWhole(this.keyOf(mark), mark, side);
  }

  result(): Pick<Overlay, 'onlyFirst' | 'onlySecond' | 'both'> {
    const onlyFirst: PlainMark[] = [];
    const onlySecond: PlainMark[] = [];
    const both: PlainMark[] = [];
    for (const { stretches, cut } of new Set(this.tracks.values())) {
      const [a, b] = [joined(stretches[0], this.tolerance), joined(stretches[1], this.tolerance)];
      onlyFirst.push(...without(a, b, this.tolerance).map(cut));
      onlySecond.push(...without(b, a, this.tolerance).map(cut));
      both.push(...shared(a, b, this.tolerance).map(cut));
    }
    for (const [a, b] of this.wholes.values()) {
      const common = Math.min(a.length, b.length);
      both.push(...a.slice(0, common));
      onlyFirst.push(...a.slice(common));
      onlySecond.push(...b.slice(common));
    }
    return { onlyFirst, onlySecond, both };
  }

  private addStroke({ spots, look }: Stroke, side: Side): void {
    for (let at = 1; at < spots.length; at++) {
      const [from, to] = [spots[at - 1], spots[at]];
      if (from && to) this.addPiece(from, to, look, side);
    }
    const [only] = spots;
    if (spots.length === 1 && only)
      this.addWhole(`spot ${this.spot(only)}`, strokeOf(look, only, only), side);
  }

  private addPiece(from: Spot, to: Spot, look: LineLook, side: Side): void {
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    if (!(length > this.tolerance)) return;
    let along: Spot = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
    // Either way along is the same line.
    if (along[0] < -1e-9 || (Math.abs(along[0]) <= 1e-9 && along[1] < 0)) along = [-along[0], -along[1]];
    const [x, y] = this.middle;
    const offset = (from[0] - x) * -along[1] + (from[1] - y) * along[0];
    const place = (spot: Spot): number => (spot[0] - x) * along[0] + (spot[1] - y) * along[1];
    const spot = (at: number): Spot => [
      x + along[0] * at - along[1] * offset,
      y + along[1] * at + along[0] * offset,
    ];
    const cells = [
      (Math.atan2(along[1], along[0]) * this.diagonal) / (4 * this.tolerance),
      offset / (4 * this.tolerance),
    ];
    const track = this.track('line', cells, () => ({
      stretches: [[], []],
      cut: ([begin, end]) => strokeOf(look, spot(begin), spot(end)),
    }));
    const [a, b] = [place(from), place(to)];
    track.stretches[side].push([Math.min(a, b), Math.max(a, b)]);
  }

  private addArc(arc: Arc, side: Side): void {
    const { centre, radius, look } = arc;
    if (!(radius > this.tolerance)) return;
    const step = this.tolerance * 4;
    const track = this.track('arc', [centre[0] / step, centre[1] / step, radius / step], () => ({
      stretches: [[], []],
      cut: ([from, to]) => ({
        ...{ kind: 'arc', look, centre, radius },
        ...{ from: from / radius, sweep: Math.min((to - from) / radius, TURN) },
      }),
    }));
    // Along the circle in drawing units, from angle 0 once around; what passes 0 is two stretches.
    const from = ((arc.from % TURN) + TURN) % TURN;
    const to = from + Math.min(arc.sweep, TURN);
    const add = (a: number, b: number): void => void track.stretches[side].push([a * radius, b * radius]);
    if (to <= TURN) add(from, to);
    else {
      add(from, TURN);
      add(0, to - TURN);
    }
  }

  /** Numbers that lie near a border of their cells are looked for in the neighbours too. */
  private track(kind: string, cells: readonly number[], make: () => Track): Track {
    let keys = [''];
    for (const cell of cells) {
      const near = Math.round(cell);
      const second = cell > near ? near + 1 : near - 1;
      keys = keys.flatMap((key) => [`${key} ${near}`, `${key} ${second}`]);
    }
    const [own = '', ...others] = keys.map((key) => kind + key);
    for (const key of [own, ...others]) {
      const found = this.tracks.get(key);
      if (!found) continue;
      // Whatever rounds as this one does is to come to the same track.
      this.tracks.set(own, found);
      return found;
    }
    const made = make();
    this.tracks.set(own, made);
    return made;
  }

  private addWhole(key: string, mark: PlainMark, side: Side): void {
    let sides = this.wholes.get(key);
    if (!sides) this.wholes.set(key, (sides = [[], []]));
    sides[side].push(mark);
  }

  private keyOf(mark: Fill | Lettering): string {
    if (mark.kind === 'lettering')
      return `lettering ${this.spot(mark.at)} ${mark.height.toPrecision(4)} ${mark.turn.toFixed(3)} ${mark.lines.join('\n')}`;
    return `fill ${mark.rings
      .map((ring) =>
        ring
          .map((spot) => this.spot(spot))
          .sort()
          .join(' '),
      )
      .sort()
      .join(' | ')}`;
  }

  private spot([x, y]: Spot): string {
    const step = this.tolerance * 50;
    return `${Math.round(x / step)},${Math.round(y / step)}`;
  }
}

function strokeOf(look: LineLook, from: Spot, to: Spot): Stroke {
  return { kind: 'stroke', look, spots: [from, to] };
}

/** Stretches in order, those that touch as one. */
function joined(stretches: Stretch[], tolerance: number): Stretch[] {
  const all: [number, number][] = [];
  for (const [from, to] of stretches.sort((a, b) => a[0] - b[0])) {
    const last = all.at(-1);
    if (last && from <= last[1] + tolerance) last[1] = Math.max(last[1], to);
    else all.push([from, to]);
  }
  return all;
}

/** What of `a` is not in `b`; both in order. */
function without(a: readonly Stretch[], b: readonly Stretch[], tolerance: number): Stretch[] {
  const left: Stretch[] = [];
  let next = 0;
  for (const [from, to] of a) {
    let begin = from;
    while ((b[next]?.[1] ?? Infinity) <= begin) next++;
    for (let at = next; at < b.length && (b[at]?.[0] ?? Infinity) < to; at++) {
      const [low, high] = b[at] ?? [to, to];
      if (low - begin > tolerance) left.push([begin, low]);
      begin = Math.max(begin, high);
    }
    if (to - begin > tolerance) left.push([begin, to]);
  }
  return left;
}

function shared(a: readonly Stretch[], b: readonly Stretch[], tolerance: number): Stretch[] {
  const common: Stretch[] = [];
  let next = 0;
  for (const [from, to] of a) {
    while ((b[next]?.[1] ?? Infinity) <= from) next++;
    for (let at = next; at < b.length && (b[at]?.[0] ?? Infinity) < to; at++) {
      const [low, high] = b[at] ?? [to, to];
      if (Math.min(high, to) - Math.max(low, from) > tolerance)
        common.push([Math.max(low, from), Math.min(high, to)]);
    }
  }
  return common;
}

/** Boxes of marks, those nearer to each other than `gap` in one; as one reads: from the top, then from the left. */
export function gathered(marks: readonly Mark[], gap: number): Extent[] {
  const boxes = marks.flatMap((mark) => extentOf([mark]) ?? []);
  let groups = gap > 0 ? bySquare(boxes, gap) : boxes;
  // Boxes that were put together may reach others that none of them reached.
  for (let before = -1; before !== groups.length;) {
    before = groups.length;
    groups = merged(groups, gap);
  }
  return groups.sort((a, b) => b.high[1] - a.high[1] || a.low[0] - b.low[0]);
}

/** Boxes whose middles lie in one square of the gap's size reach each other; taken together first, for there may be very many. */
function bySquare(boxes: readonly Extent[], gap: number): Extent[] {
  const squares = new Map<string, Extent>();
  for (const box of boxes) {
    const [x, y] = [(box.low[0] + box.high[0]) / 2, (box.low[1] + box.high[1]) / 2];
    const key = `${Math.floor(x / gap)} ${Math.floor(y / gap)}`;
    const before = squares.get(key);
    squares.set(key, before ? (around([before, box]) ?? box) : box);
  }
  return [...squares.values()];
}

/** One sweep from left to right over boxes that reach each other. */
function merged(boxes: readonly Extent[], gap: number): Extent[] {
  const open: Extent[] = [];
  const closed: Extent[] = [];
  for (const box of [...boxes].sort((a, b) => a.low[0] - b.low[0])) {
    let grown = box;
    for (let at = open.length - 1; at >= 0; at--) {
      const other = open[at];
      if (!other) continue;
      if (other.high[0] + gap < box.low[0]) closed.push(...open.splice(at, 1));
      else if (other.low[1] <= grown.high[1] + gap && other.high[1] >= grown.low[1] - gap) {
        grown = around([grown, other]) ?? grown;
        open.splice(at, 1);
      }
    }
    open.push(grown);
  }
  return [...closed, ...open];
}
