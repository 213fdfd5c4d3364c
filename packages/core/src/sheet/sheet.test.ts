import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  extentOf,
  findWords,
  gathered,
  overlayDrawings,
  overlayOf,
  overlayPixels,
  scaleOf,
  snapAt,
  type Drawing,
  type Extent,
  type Lettering,
  type LineLook,
  type Mark,
  type Overlay,
  type Pixels,
  type PlainMark,
  type Sheet,
  type Spot,
} from './index.js';

const LOOK: LineLook = { layer: 0, colour: null, weightMm: 0.25, dashes: [], width: 0 };
const line = (...spots: Spot[]): Mark => ({ kind: 'stroke', look: LOOK, spots });
const arc = (centre: Spot, radius: number, from: number, sweep: number): Mark => ({
  ...{ kind: 'arc', look: LOOK, centre, radius, from, sweep },
});
const letters = (text: string, at: Spot, more: Partial<Lettering> = {}): Lettering => ({
  ...{ kind: 'lettering', look: LOOK, at, height: 3, turn: 0, stretch: 1, across: 'left', up: 'base' },
  ...{ lines: [text], lineStep: 5, tag: '' },
  ...more,
});
const sheet = (marks: readonly Mark[]): Sheet => ({ name: 'Model', marks, paperMm: null });

function lengthOf(marks: readonly PlainMark[]): number {
  return marks.reduce((sum, mark) => {
    if (mark.kind === 'arc') return sum + mark.radius * mark.sweep;
    const spots = mark.kind === 'stroke' ? mark.spots : [];
    return spots.reduce((all, [x, y], at) => {
      const [x0, y0] = spots[Math.max(at - 1, 0)] ?? [x, y];
      return all + Math.hypot(x - x0, y - y0);
    }, sum);
  }, 0);
}

const coordinate = fc.integer({ min: -400, max: 400 }).map((value) => value / 2);
const spot = fc.tuple(coordinate, coordinate);
const anyStroke = fc.array(spot, { minLength: 2, maxLength: 5 }).map((spots) => line(...spots));
const anyArc = fc
  .tuple(
    spot,
    fc.integer({ min: 1, max: 80 }),
    fc.double({ min: 0, max: 6.2, noNaN: true }),
    fc.double({ min: 0.2, max: 6.2, noNaN: true }),
  )
  .map(([centre, radius, from, sweep]) => arc(centre, radius, from, sweep));
const anyMarks = fc.array(fc.oneof(anyStroke, anyArc), { minLength: 1, maxLength: 30 });

/** The same lines in other pieces: cut anywhere, turned round, in another order. */
function cutUp(marks: readonly Mark[], parts: readonly number[]): Mark[] {
  let next = 0;
  const part = (): number => parts[next++ % parts.length] ?? 0.5;
  return marks
    .flatMap((mark): Mark[] => {
      if (mark.kind === 'arc') {
        const at = mark.sweep * part();
        return at > 0.01 && mark.sweep - at > 0.01
          ? [
              arc(mark.centre, mark.radius, mark.from + at, mark.sweep - at),
              arc(mark.centre, mark.radius, mark.from, at),
            ]
          : [mark];
      }
      if (mark.kind !== 'stroke') return [mark];
      return mark.spots.slice(1).flatMap((to, at): Mark[] => {
        const from = mark.spots[at] ?? to;
        const way = part();
        const middle: Spot = [from[0] + (to[0] - from[0]) * way, from[1] + (to[1] - from[1]) * way];
        return [line(middle, from), line(middle, to)];
      });
    })
    .reverse();
}

const differences = ({ onlyFirst, onlySecond }: Overlay): number => lengthOf([...onlyFirst, ...onlySecond]);

describe('two states of a sheet laid over each other', () => {
  it('show no difference where lines are only cut into other pieces', () => {
    fc.assert(
      fc.property(
        anyMarks,
        fc.array(fc.double({ min: 0.05, max: 0.95, noNaN: true }), { minLength: 1 }),
        (marks, parts) => {
          const overlay = overlayOf(sheet(marks), sheet(cutUp(marks, parts)));
          expect(differences(overlay)).toBeLessThan(0.02 * marks.length);
          expect(overlayOf(sheet(marks), sheet(marks)).places).toEqual([]);
        },
      ),
    );
  });

  it('show what was added as only in the second, and the other way round as only in the first', () => {
    fc.assert(
      fc.property(anyMarks, anyMarks, (marks, added) => {
        // Beside everything else, so that nothing of it was there before.
        const beside = added.map((mark): Mark => shifted(mark, 2000));
        const overlay = overlayOf(sheet(marks), sheet([...marks, ...beside]));
        expect(lengthOf(overlay.onlyFirst)).toBe(0);
        const alone = overlayOf(sheet([]), sheet(beside));
        expect(lengthOf(overlay.onlySecond)).toBeCloseTo(lengthOf(alone.onlySecond), 3);
        const back = overlayOf(sheet([...marks, ...beside]), sheet(marks));
        expect(lengthOf(back.onlyFirst)).toBeCloseTo(lengthOf(overlay.onlySecond), 3);
        expect(back.places.length).toBe(overlay.places.length);
      }),
    );
  });

  it('cover together exactly what each of them draws', () => {
    fc.assert(
      fc.property(anyMarks, anyMarks, (first, second) => {
        const { onlyFirst, onlySecond, both } = overlayOf(sheet(first), sheet(second));
        const drawn = (marks: readonly Mark[]): number =>
          lengthOf(overlayOf(sheet([]), sheet(marks)).onlySecond);
        expect(lengthOf(onlyFirst) + lengthOf(both)).toBeCloseTo(drawn(first), 1);
        expect(lengthOf(onlySecond) + lengthOf(both)).toBeCloseTo(drawn(second), 1);
      }),
    );
  });

  it('show a word that changed, and a line that became longer by the piece that came to it', () => {
    const before = sheet([line([0, 0], [10, 0]), letters('M8', [0, 20])]);
    const after = sheet([line([0, 0], [14, 0]), letters('M10', [0, 20])]);
    const { onlyFirst, onlySecond, places } = overlayOf(before, after);
    expect(onlyFirst).toEqual([letters('M8', [0, 20])]);
    expect(lengthOf(onlySecond)).toBeCloseTo(4, 6);
    expect(onlySecond.filter(({ kind }) => kind === 'lettering')).toEqual([letters('M10', [0, 20])]);
    expect(places).toHaveLength(2);
  });
});

function shifted(mark: Mark, by: number): Mark {
  if (mark.kind === 'arc') return { ...mark, centre: [mark.centre[0] + by, mark.centre[1]] };
  if (mark.kind !== 'stroke') return mark;
  return { ...mark, spots: mark.spots.map(([x, y]): Spot => [x + by, y]) };
}

describe('whole drawings laid over each other', () => {
  const drawing = (
    sheets: Readonly<Record<string, readonly Mark[]>>,
    papers: readonly string[] = [],
  ): Drawing => ({
    ...{ unitMm: 1, undrawn: [] },
    layers: [
      { name: '0', isOn: true, isPrinted: true },
      { name: 'off', isOn: false, isPrinted: true },
    ],
    sheets: Object.entries(sheets).map(([name, marks]) => ({
      ...{ name, marks },
      paperMm: papers.includes(name) ? [420, 297] : null,
    })),
  });
  const said = (first: Drawing, second: Drawing): unknown[] =>
    overlayDrawings(first, second).map(({ name, onlyIn, overlay }) => [name, onlyIn, overlay.places.length]);

  it('pair sheets by name, single ones whatever their names, and name what only one has', () => {
    const here = line([0, 0], [10, 0]);
    expect(said(drawing({ Model: [here] }), drawing({ Sheet: [here] }))).toEqual([['Sheet', null, 0]]);
    const before = drawing({ Model: [here], One: [here], Two: [here] }, ['One', 'Two']);
    const after = drawing({ Model: [], Three: [here], Two: [] }, ['Two', 'Three']);
    expect(said(before, after)).toEqual([
      ['Three', 'second', 1],
      ['Two', null, 1],
      ['One', 'first', 1],
    ]);
  });

  it('leave out what lies on layers that are off, also what is seen through an opening', () => {
    const shut: Mark = {
      kind: 'stroke',
      look: { ...LOOK, layer: 1 },
      spots: [
        [0, 5],
        [10, 5],
      ],
    };
    const through: Mark = {
      ...{ kind: 'opening', low: [-50, -50], high: [50, 50], scale: 1 },
      marks: [shut, line([0, 0], [10, 0])],
    };
    expect(said(drawing({ Model: [line([0, 0], [10, 0])] }), drawing({ Model: [through, shut] }))).toEqual([
      ['Model', null, 0],
    ]);
  });

  it('are the other way round what they are this way', () => {
    const turned = { first: 'second', second: 'first' } as const;
    const sheets = fc.dictionary(fc.constantFrom('One', 'Two', 'Three'), anyMarks);
    fc.assert(
      fc.property(sheets, sheets, (first, second) => {
        const there = overlayDrawings(drawing(first), drawing(second));
        const back = overlayDrawings(drawing(second), drawing(first));
        const isOneEach = Object.keys(first).length === 1 && Object.keys(second).length === 1;
        const key = (name: string): string => (isOneEach ? '' : name);
        expect(
          new Map(back.map(({ name, onlyIn, overlay }) => [key(name), [onlyIn, overlay.places.length]])),
        ).toEqual(
          new Map(
            there.map(({ name, onlyIn, overlay }) => [
              key(name),
              [onlyIn && turned[onlyIn], overlay.places.length],
            ]),
          ),
        );
      }),
    );
  });
});

describe('places', () => {
  it('hold all that differs, and lie apart by more than the gap', () => {
    fc.assert(
      fc.property(anyMarks, fc.integer({ min: 0, max: 60 }), (marks, gap) => {
        const places = gathered(marks, gap);
        const holds = (outer: Extent, inner: Extent): boolean =>
          outer.low.every((value, axis) => value <= (inner.low[axis] ?? 0)) &&
          outer.high.every((value, axis) => value >= (inner.high[axis] ?? 0));
        for (const mark of marks) {
          const extent = extentOf([mark]);
          expect(extent && places.some((place) => holds(place, extent))).toBe(true);
        }
        for (const [at, a] of places.entries())
          for (const b of places.slice(at + 1))
            expect(
              [0, 1].some((axis) => apart(a, b, axis) > gap),
              'two places that reach each other',
            ).toBe(true);
      }),
    );
  });
});

function apart(a: Extent, b: Extent, axis: number): number {
  return Math.max((a.low[axis] ?? 0) - (b.high[axis] ?? 0), (b.low[axis] ?? 0) - (a.high[axis] ?? 0));
}

describe('what the pointer catches', () => {
  const marks = [line([0, 0], [10, 0]), arc([20, 0], 5, 0, Math.PI)] as PlainMark[];
  it.each([
    [[0.4, 0.3], [0, 0], 'end'],
    [[5.2, 0.2], [5, 0], 'middle'],
    [[20.1, 0.2], [20, 0], 'centre'],
    [[20.2, 5.3], [20, 5], 'quarter'],
    [[7.5, 0.4], [7.5, 0], 'on the line'],
  ] as const)('at %j is %j, the %s', (at, found, what) => {
    const snap = snapAt(marks, at, 1);
    expect(snap?.what).toBe(what);
    expect(snap?.at[0]).toBeCloseTo(found[0], 9);
    expect(snap?.at[1]).toBeCloseTo(found[1], 9);
  });

  it('is never farther away than the pointer reaches', () => {
    fc.assert(
      fc.property(anyMarks, spot, fc.integer({ min: 1, max: 40 }), (all, at, reach) => {
        const snap = snapAt(all as PlainMark[], at, reach);
        if (snap) expect(Math.hypot(snap.at[0] - at[0], snap.at[1] - at[1])).toBeLessThanOrEqual(reach);
      }),
    );
  });
});

describe('words', () => {
  it('are found in whatever case, through openings too, as one reads', () => {
    const opening: Mark = {
      kind: 'opening',
      low: [0, 0],
      high: [9, 9],
      scale: 1,
      marks: [letters('Deburr edges', [1, 90])],
    };
    const found = findWords([letters('deburr', [50, 10]), letters('drill', [0, 0]), opening], 'DEBURR');
    expect(found.map(({ text }) => text)).toEqual(['Deburr edges', 'deburr']);
    expect(findWords([opening], '  ')).toEqual([]);
  });

  it('stand in a box that turns with them', () => {
    const { corners = [] } = findWords([letters('abc', [10, 10], { turn: Math.PI / 2 })], 'b')[0] ?? {};
    expect(corners.every(([x, y]) => x <= 10.001 && x >= 6.9 && y >= 9.9)).toBe(true);
  });
});

describe('pages laid over each other by their pixels', () => {
  const SIZE = 120;
  const page = (boxes: readonly (readonly [x: number, y: number, side: number])[]): Pixels => {
    const data = new Uint8ClampedArray(SIZE * SIZE * 4).fill(255);
    for (const [left, top, side] of boxes)
      for (let y = top; y < Math.min(top + side, SIZE); y++)
        for (let x = left; x < Math.min(left + side, SIZE); x++)
          data.fill(0, (y * SIZE + x) * 4, (y * SIZE + x) * 4 + 3);
    return { width: SIZE, height: SIZE, data };
  };
  const box = fc.tuple(fc.nat(90), fc.nat(90), fc.integer({ min: 4, max: 25 }));
  const colourAt = ({ data }: Pixels, x: number, y: number): number[] => [
    ...data.slice((y * SIZE + x) * 4, (y * SIZE + x) * 4 + 3),
  ];

  it('are the same where they are, also when drawn off by a pixel', () => {
    fc.assert(
      fc.property(fc.array(box, { maxLength: 6 }), fc.constantFrom(0, 1), (boxes, off) => {
        const again = boxes.map(([x, y, side]) => [x + off, y, side] as const);
        expect(overlayPixels(page(boxes), page(again)).places).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('show in copper what only the first has, in blue what only the second has, where it is', () => {
    const { pixels, places } = overlayPixels(
      page([
        [10, 10, 8],
        [50, 50, 8],
      ]),
      page([
        [50, 50, 8],
        [90, 20, 8],
      ]),
    );
    expect(colourAt(pixels, 13, 13)).toEqual([0x96, 0x47, 0x0f]);
    expect(colourAt(pixels, 93, 23)).toEqual([0x1b, 0x59, 0xb3]);
    const [red = 0, green = 0] = colourAt(pixels, 53, 53);
    expect(Math.abs(red - green)).toBeLessThan(12);
    expect(places).toHaveLength(2);
    // From the top, in pixels from the lower edge.
    expect(places.every(({ low, high }) => low[1] <= SIZE - 10 && high[1] >= SIZE - 30)).toBe(true);
  });
});

describe('the scale of a sheet', () => {
  it.each([
    ['SCALE', '1:5', 5],
    ['Maßstab', 'M 2 : 1', 0.5],
    ['scale', '1/2,5', 2.5],
    ['SCALE', 'none', undefined],
    ['SCALE', '0:0', undefined],
    ['TITLE', '1:5', undefined],
  ])('%s %s is %s', (tag, text, factor) => {
    expect(scaleOf([letters(text, [0, 0], { tag })])?.factor).toBe(factor);
  });
});
