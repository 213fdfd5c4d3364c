import { extentOf, flat, type Mark, type PlainMark } from '@stem-trace/core/sheet';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FormatError } from '../../errors.js';
import { drawingOf } from './index.js';

type Groups = readonly (string | number)[];

const bytesOf = (groups: Groups): Uint8Array => new TextEncoder().encode(`${groups.join('\n')}\n`);
const section = (name: string, ...groups: Groups): Groups => [0, 'SECTION', 2, name, ...groups, 0, 'ENDSEC'];
const file = (entities: Groups, blocks: Groups = [], more: Groups = []): Uint8Array =>
  bytesOf([...more, ...section('BLOCKS', ...blocks), ...section('ENTITIES', ...entities), 0, 'EOF']);
const LINE: Groups = [0, 'LINE', 8, '0', 10, 0, 20, 0, 11, 10, 21, 0];
const insert = (name: string, more: Groups = []): Groups => [0, 'INSERT', 2, name, 10, 100, 20, 50, ...more];
const block = (name: string, ...entities: Groups): Groups => [
  0,
  'BLOCK',
  2,
  name,
  10,
  0,
  20,
  0,
  ...entities,
  0,
  'ENDBLK',
];

function marksOf(bytes: Uint8Array): readonly Mark[] {
  return drawingOf(bytes).sheets[0]?.marks ?? [];
}

function only(bytes: Uint8Array): Mark {
  const [mark, ...others] = marksOf(bytes);
  expect(others).toEqual([]);
  if (!mark) throw new Error('nothing was drawn');
  return mark;
}

describe('what a drawing shows', () => {
  it('is a bulge as the arc that it means, on the side where it bulges', () => {
    const polyline = (bulge: number): Groups => [
      0,
      'LWPOLYLINE',
      90,
      2,
      10,
      0,
      20,
      0,
      42,
      bulge,
      10,
      10,
      20,
      0,
    ];
    const left = only(file(polyline(1)));
    expect(left).toMatchObject({ kind: 'arc', radius: 5 });
    expect(extentOf([left])?.low[1]).toBeCloseTo(-5, 9);
    expect(extentOf([only(file(polyline(-1)))])?.high[1]).toBeCloseTo(5, 9);
    fc.assert(
      fc.property(fc.double({ min: 0.05, max: 3, noNaN: true }), (bulge) => {
        const arc = only(file(polyline(bulge)));
        if (arc.kind !== 'arc') throw new Error('no arc');
        // The chord, and the angle that the bulge is the tangent of a quarter of.
        expect(2 * arc.radius * Math.sin(arc.sweep / 2)).toBeCloseTo(10, 6);
        expect(Math.tan(arc.sweep / 4)).toBeCloseTo(bulge, 9);
      }),
    );
  });

  it('is a circle while it is stretched evenly, and a line of spots where it is not', () => {
    const circle: Groups = [0, 'CIRCLE', 8, '0', 10, 0, 20, 0, 40, 2];
    expect(only(file(insert('B', [41, 3, 42, 3, 50, 30]), block('B', ...circle)))).toMatchObject({
      kind: 'arc',
      radius: 6,
    });
    const stretched = only(file(insert('B', [41, 3, 42, 1]), block('B', ...circle)));
    expect(stretched.kind).toBe('stroke');
    expect(extentOf([stretched])?.high[0]).toBeCloseTo(106, 6);
  });

  it('takes layer, colour and weight from where they are said', () => {
    const tables = section(
      'TABLES',
      0,
      'LAYER',
      2,
      'AXES',
      70,
      0,
      62,
      1,
      6,
      'CONTINUOUS',
      370,
      50,
      0,
      'LAYER',
      2,
      'OFF',
      70,
      0,
      62,
      -3,
    );
    const inner: Groups = [
      ...[0, 'LINE', 8, '0', 62, 0, 10, 0, 20, 0, 11, 1, 21, 0],
      ...[0, 'LINE', 8, 'OFF', 420, 0x123456, 10, 0, 20, 0, 11, 1, 21, 0],
    ];
    const { layers, sheets } = drawingOf(
      file([0, 'INSERT', 2, 'B', 8, 'AXES', 62, 5, 10, 0, 20, 0], block('B', ...inner), tables),
    );
    const [first, second] = [...flat(sheets[0]?.marks ?? [])];
    const nameOf = (mark: PlainMark | undefined): string | undefined => layers[mark?.look.layer ?? -1]?.name;
    expect([nameOf(first), first?.look.colour, nameOf(second), second?.look.colour]).toEqual([
      'AXES',
      '#0000ff',
      'OFF',
      '#123456',
    ]);
    expect(first?.kind === 'stroke' && first.look.weightMm).toBe(0.5);
    expect(layers.find(({ name }) => name === 'OFF')?.isOn).toBe(false);
  });

  it('has no openings in the model, where one would look at itself', () => {
    const opening: Groups = [0, 'VIEWPORT', 10, 5, 20, 5, 40, 8, 41, 6, 69, 2, 12, 0, 22, 0, 45, 6];
    const [paper, model, ...more] = drawingOf(file([...LINE, ...opening, ...withPaper(opening)])).sheets;
    expect(more).toEqual([]);
    expect(model?.marks.map(({ kind }) => kind)).toEqual(['stroke']);
    expect(paper?.marks).toMatchObject([{ kind: 'opening', marks: [{ kind: 'stroke' }] }]);
  });

  it('is paper with openings through which the model is seen to scale, of new files and of release 12', () => {
    const seen: Groups = [0, 'LINE', 10, 200, 20, 100, 11, 240, 21, 100];
    const newer: Groups = [
      0,
      'VIEWPORT',
      67,
      1,
      10,
      50,
      20,
      50,
      40,
      80,
      41,
      60,
      69,
      2,
      12,
      220,
      22,
      100,
      45,
      120,
    ];
    const older: Groups = [
      ...[
        0,
        'VIEWPORT',
        67,
        1,
        10,
        50,
        20,
        50,
        40,
        80,
        41,
        60,
        69,
        2,
        1001,
        'ACAD',
        1000,
        'MVIEW',
        1002,
        '{',
        1070,
        16,
      ],
      ...[
        1010,
        0,
        1020,
        0,
        1030,
        0,
        1010,
        0,
        1020,
        0,
        1030,
        1,
        1040,
        0,
        1040,
        120,
        1040,
        220,
        1040,
        100,
        1002,
        '}',
      ],
    ];
    for (const view of [newer, older]) {
      const { sheets } = drawingOf(file([...seen, ...view]));
      expect(sheets.map(({ name }) => name)).toEqual(['Paper', 'Model']);
      const [opening] = sheets[0]?.marks ?? [];
      if (opening?.kind !== 'opening') throw new Error('no opening');
      expect([opening.scale, opening.low, opening.high]).toEqual([0.5, [10, 20], [90, 80]]);
      const spots = opening.marks.flatMap((mark) => (mark.kind === 'stroke' ? mark.spots : []));
      expect(spots).toEqual([
        [40, 50],
        [60, 50],
      ]);
    }
  });

  it('draws what other drawings show where they are attached, and says which are not at hand', () => {
    const attached = file(insert('FRAME'), [
      0,
      'BLOCK',
      2,
      'FRAME',
      70,
      4,
      1,
      '..\\Frames\\A3.dxf',
      0,
      'ENDBLK',
    ]);
    expect(drawingOf(attached).undrawn).toMatchObject([{ what: 'external reference', count: 1 }]);
    const { sheets, layers, undrawn } = drawingOf(attached, [{ name: 'a3.DXF', bytes: file(LINE) }]);
    expect(undrawn).toEqual([]);
    expect(extentOf(sheets[0]?.marks ?? [])).toEqual({ low: [100, 50], high: [110, 50] });
    expect(layers.map(({ name }) => name)).toContain('FRAME|0');
  });

  it('is an area with its hole, or the lines of its pattern within it', () => {
    const boundary: Groups = [
      91, 1, 92, 2, 72, 0, 73, 1, 93, 4, 10, 0, 20, 0, 10, 10, 20, 0, 10, 10, 20, 4, 10, 0, 20, 4,
    ];
    const hatch = (solid: 0 | 1, more: Groups = []): Groups => [
      ...[0, 'HATCH', 10, 0, 20, 0, 30, 0, 2, 'X', 70, solid, 71, 0, ...boundary, 75, 0, 76, 1, ...more],
    ];
    expect(only(file(hatch(1)))).toMatchObject({
      kind: 'fill',
      rings: [
        [
          [0, 0],
          [10, 0],
          [10, 4],
          [0, 4],
        ],
      ],
    });
    const lines = marksOf(file(hatch(0, [78, 1, 53, 0, 43, 0, 44, 0.5, 45, 0, 46, 1, 79, 0])));
    expect(lines.map((mark) => mark.kind === 'stroke' && mark.spots)).toEqual(
      [0.5, 1.5, 2.5, 3.5].map((y) => [
        [0, y],
        [10, y],
      ]),
    );
  });

  it('counts what it does not draw, with the reason', () => {
    const { undrawn } = drawingOf(file([0, 'REGION', 8, '0', 0, 'REGION', 8, '0', ...insert('NONE')]));
    expect(undrawn.map(({ what, count }) => [what, count])).toEqual([
      ['REGION', 2],
      ['INSERT', 1],
    ]);
    expect(undrawn[1]?.why).toMatch(/no block 'NONE'/);
  });

  it('comes to an end where blocks multiply, or contain themselves', () => {
    const levels = Array.from({ length: 12 }, (_, level) =>
      block(
        `B${level}`,
        ...Array.from({ length: 10 }, () => (level === 0 ? LINE : insert(`B${level - 1}`))).flat(),
      ),
    ).flat();
    // As it ends at these, it ends at more.
    const most = { marks: 20_000, steps: 40_000 };
    const bomb = drawingOf(file(insert('B11'), levels), [], most);
    expect(bomb.sheets[0]?.marks.length).toBeGreaterThan(0);
    expect(bomb.sheets[0]?.marks.length).toBeLessThanOrEqual(most.marks);
    expect(bomb.undrawn.some(({ why }) => /more on this drawing/.test(why))).toBe(true);
    // Nothing multiplied is nothing, and takes its time all the same.
    const empty = levels.map((value) => (value === 'LINE' ? 'SEQEND' : value));
    expect(drawingOf(file(insert('B11'), empty), [], most).sheets).toEqual([]);
    const rows = insert('E', [70, 32_767, 71, 32_767, 44, 1, 45, 1]);
    expect(drawingOf(file([...rows, ...rows], block('E')), [], most).sheets).toEqual([]);
    const loop = drawingOf(
      file(insert('A'), [...block('A', ...insert('B')), ...block('B', ...insert('A'), ...LINE)]),
    );
    expect(loop.undrawn.some(({ why }) => /contains itself/.test(why))).toBe(true);
    expect(loop.sheets[0]?.marks).toHaveLength(1);
  });
});

/** The same on paper. */
function withPaper([zero = 0, kind = '', ...rest]: Groups): Groups {
  return [zero, kind, 67, 1, ...rest];
}

describe('whatever the bytes are', () => {
  const KINDS = [
    ...[
      'LINE',
      'CIRCLE',
      'ARC',
      'ELLIPSE',
      'LWPOLYLINE',
      'POLYLINE',
      'VERTEX',
      'SEQEND',
      'SPLINE',
      'SOLID',
      '3DFACE',
      'HATCH',
    ],
    ...[
      'TEXT',
      'MTEXT',
      'ATTRIB',
      'TOLERANCE',
      'INSERT',
      'DIMENSION',
      'LEADER',
      'MULTILEADER',
      'MLINE',
      'IMAGE',
      'WIPEOUT',
      'VIEWPORT',
    ],
  ];
  const value = fc.oneof(
    fc.double().map(String),
    fc.integer({ min: -5, max: 400 }).map(String),
    fc.constantFrom(
      'B',
      '*D1',
      '{',
      'CONTEXT_DATA{',
      'LEADER_LINE{',
      '}',
      'MVIEW',
      '',
      '%%c12 \\H3;x',
      '1e308',
      'nan',
    ),
  );
  const code = fc.constantFrom(
    ...[
      1, 2, 3, 6, 7, 8, 10, 11, 12, 13, 14, 20, 21, 22, 23, 30, 31, 40, 41, 42, 43, 44, 45, 46, 48, 49, 50,
      51, 53, 60, 62,
    ],
    ...[
      66, 67, 68, 69, 70, 71, 72, 73, 74, 75, 76, 78, 79, 90, 91, 92, 93, 94, 95, 96, 101, 210, 220, 230, 302,
      304, 340, 420,
    ],
  );
  const entity = fc
    .tuple(fc.constantFrom(...KINDS), fc.array(fc.tuple(code, value), { maxLength: 30 }))
    // Where it is not said, an entity is in the model; 67 puts it on paper.
    .chain(([kind, groups]) =>
      fc.constantFrom([], [67, 1]).map((where): Groups => [0, kind, ...where, ...groups.flat()]),
    );

  it('only marks that can be drawn come of them, or a fault in words', () => {
    fc.assert(
      fc.property(
        fc.array(entity, { maxLength: 12 }),
        fc.array(entity, { maxLength: 6 }),
        (entities, inside) => {
          const { sheets, layers } = drawingOf(file(entities.flat(), block('B', ...inside.flat())));
          for (const { marks } of sheets) {
            const extent = extentOf(marks);
            expect(extent && [...extent.low, ...extent.high].every(Number.isFinite)).not.toBe(false);
            for (const mark of flat(marks)) expect(layers[mark.look.layer]).toBeDefined();
          }
        },
      ),
      { numRuns: 600 },
    );
  });

  it('a file that is cut, or has bytes changed, is read as far as it goes or refused', () => {
    const whole = file(
      [...LINE, ...insert('B', [41, 2]), 0, 'MTEXT', 10, 1, 20, 1, 40, 3, 1, 'Deburr'],
      block('B', ...LINE),
    );
    fc.assert(
      fc.property(
        fc.nat(whole.length),
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 8 }),
        (length, changes) => {
          const bytes = whole.slice(0, length);
          for (const [at, byte] of changes) if (at < length) bytes[at] = byte;
          try {
            drawingOf(bytes);
          } catch (error) {
            expect(error).toBeInstanceOf(FormatError);
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});
