/** What on a drawing can be measured from: ends, middles, centres, crossings are where a person points at, or near it. */
import { onArc, passes } from './extent.js';
import type { Arc, Spot } from './model.js';
import type { PlainMark } from './overlay.js';

export interface Snap {
  readonly at: Spot;
  readonly what: 'end' | 'middle' | 'centre' | 'quarter' | 'on the line';
  /** Of the circle that it is the centre of, or lies on. */
  readonly arc?: Pick<Arc, 'centre' | 'radius'>;
}

/** Lower is wanted more: an end is caught before a place somewhere on the line. */
const RANK: Readonly<Record<Snap['what'], number>> = {
  end: 0,
  centre: 1,
  middle: 2,
  quarter: 3,
  'on the line': 4,
};

/** The spot that is meant by pointing at `at`, within `reach`; undefined where nothing is near. `O(marks)`. */
export function snapAt(marks: Iterable<PlainMark>, at: Spot, reach: number): Snap | undefined {
  let best: Snap | undefined;
  let bestScore = Infinity;
  const offer = (snap: Snap): void => {
    const away = Math.hypot(snap.at[0] - at[0], snap.at[1] - at[1]);
    if (!(away <= reach)) return;
    const score = RANK[snap.what] * reach + away;
    if (score < bestScore) [best, bestScore] = [snap, score];
  };
  for (const mark of marks) {
    if (mark.kind === 'stroke') offerStroke(mark.spots, at, offer);
    else if (mark.kind === 'arc') offerArc(mark, at, offer);
  }
  return best;
}

function offerStroke(spots: readonly Spot[], at: Spot, offer: (snap: Snap) => void): void {
  for (const spot of spots) offer({ at: spot, what: 'end' });
  for (let next = 1; next < spots.length; next++) {
    const [from, to] = [spots[next - 1], spots[next]];
    if (!from || !to) continue;
    offer({ at: [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2], what: 'middle' });
    offer({ at: nearestOn(from, to, at), what: 'on the line' });
  }
}

function offerArc(arc: Arc, at: Spot, offer: (snap: Snap) => void): void {
  const { centre, radius, from, sweep } = arc;
  const of = { arc: { centre, radius } };
  offer({ at: centre, what: 'centre', ...of });
  if (sweep < 2 * Math.PI - 1e-9)
    for (const end of [from, from + sweep]) offer({ at: onArc(arc, end), what: 'end', ...of });
  for (const quarter of [0, 1, 2, 3].map((each) => (each * Math.PI) / 2))
    if (passes(arc, quarter)) offer({ at: onArc(arc, quarter), what: 'quarter', ...of });
  const angle = Math.atan2(at[1] - centre[1], at[0] - centre[0]);
  if (passes(arc, angle)) offer({ at: onArc(arc, angle), what: 'on the line', ...of });
}

/** The place between two spots that is nearest to a third. */
export function nearestOn(from: Spot, to: Spot, at: Spot): Spot {
  const [x, y] = [to[0] - from[0], to[1] - from[1]];
  const square = x * x + y * y;
  if (square === 0) return from;
  const part = Math.min(1, Math.max(0, ((at[0] - from[0]) * x + (at[1] - from[1]) * y) / square));
  return [from[0] + part * x, from[1] + part * y];
}
