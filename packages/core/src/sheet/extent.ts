import type { Arc, Extent, Lettering, Mark, Spot } from './model.js';

const TURN = 2 * Math.PI;
/** Width of a letter by its height, on average; what is drawn is measured by whoever draws it. */
const LETTER = 0.62;

/** The box of what is drawn; undefined where nothing is. `O(marks)`. */
export function extentOf(marks: Iterable<Mark>): Extent | undefined {
  const box = new Box();
  for (const mark of marks) for (const spot of outerSpots(mark)) box.add(spot);
  return box.extent();
}

/** The box around boxes. */
export function around(extents: Iterable<Extent>): Extent | undefined {
  const box = new Box();
  for (const { low, high } of extents) {
    box.add(low);
    box.add(high);
  }
  return box.extent();
}

/** Where a mark is at an angle of an arc. */
export function onArc({ centre, radius }: Pick<Arc, 'centre' | 'radius'>, angle: number): Spot {
  return [centre[0] + radius * Math.cos(angle), centre[1] + radius * Math.sin(angle)];
}

/** Whether an arc passes an angle. */
export function passes({ from, sweep }: Pick<Arc, 'from' | 'sweep'>, angle: number): boolean {
  const past = (((angle - from) % TURN) + TURN) % TURN;
  return past <= sweep + 1e-12;
}

/** Width that lettering takes, about. */
export function widthOf(text: string, height: number, stretch = 1): number {
  return [...text].length * height * LETTER * stretch;
}

/** Corners of the box that lettering takes, turned with it. */
export function cornersOf(mark: Lettering): readonly Spot[] {
  const { at, height, turn, stretch, lines, lineStep, across, up } = mark;
  const width = Math.max(0, ...lines.map((line) => widthOf(line, height, stretch)));
  const tall = height + (lines.length - 1) * lineStep;
  const left = across === 'left' ? 0 : across === 'middle' ? -width / 2 : -width;
  const top = { base: height, bottom: tall, middle: tall / 2, top: 0 }[up];
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const corner = (x: number, y: number): Spot => [at[0] + x * cos - y * sin, at[1] + x * sin + y * cos];
  return [
    corner(left, top - tall),
    corner(left + width, top - tall),
    corner(left + width, top),
    corner(left, top),
  ];
}

function outerSpots(mark: Mark): readonly Spot[] {
  switch (mark.kind) {
    case 'stroke':
      return mark.spots;
    case 'arc':
      return [
        onArc(mark, mark.from),
        onArc(mark, mark.from + mark.sweep),
        ...[0, 1, 2, 3]
          .map((quarter) => (quarter * TURN) / 4)
          .filter((angle) => passes(mark, angle))
          .map((angle) => onArc(mark, angle)),
      ];
    case 'fill':
      return mark.rings.flat();
    case 'lettering':
      return cornersOf(mark);
    case 'opening':
      return [mark.low, mark.high];
  }
}

class Box {
  private lowX = Infinity;
  private lowY = Infinity;
  private highX = -Infinity;
  private highY = -Infinity;

  add([x, y]: Spot): void {
    if (!Number.isFinite(x) || !Number.isFinite(y)) return;
    this.lowX = Math.min(this.lowX, x);
    this.lowY = Math.min(this.lowY, y);
    this.highX = Math.max(this.highX, x);
    this.highY = Math.max(this.highY, y);
  }

  extent(): Extent | undefined {
    return this.lowX > this.highX
      ? undefined
      : { low: [this.lowX, this.lowY], high: [this.highX, this.highY] };
  }
}
