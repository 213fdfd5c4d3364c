/** Drawing sheets as ASCII DXF: views on A3 paper, a filled title block, the company's frame as a file attached. */
import type { Polyline, View } from './projection.js';

const PAPER = { width: 420, height: 297 } as const;
/** Where the views may stand, clear of frame and title block. */
const AREA = { left: 30, bottom: 70, width: 370, height: 210 } as const;
const GAP = 28;
const SCALES = [10, 5, 2, 1, 1 / 2, 1 / 5, 1 / 10, 1 / 20, 1 / 50];

/** Number of a colour in the table that the format has. */
const COLOUR = { ink: 7, hidden: 8, dimension: 5, frame: 250, field: 7 } as const;

export interface SheetContents {
  readonly views: { readonly front: View; readonly top: View; readonly right: View };
  readonly fields: Readonly<Record<string, string>>;
  readonly notes: readonly string[];
  /** Path of the frame, as seen from the drawing. */
  readonly frame: string;
}

type Group = readonly [number, string | number];

/** `front` at the lower left, `top` above it as seen from below the fold, `right` to its right. */
export function drawingSheet({ views, fields, notes, frame }: SheetContents): string {
  const { front, top, right } = views;
  const scale = scaleFor(front.width + right.width, front.height + top.height);
  const groups: Group[] = [];
  const draw = (view: View, x: number, y: number): void => {
    for (const line of view.hidden) groups.push(...polyline(line, 'HIDDEN', { x, y, scale }));
    for (const line of view.visible) groups.push(...polyline(line, 'VISIBLE', { x, y, scale }));
  };
  const left = AREA.left + 14;
  const bottom = AREA.bottom + 14;
  const rightX = left + front.width * scale + GAP;
  const topY = bottom + front.height * scale + GAP;
  draw(front, left, bottom);
  draw(right, rightX, bottom);
  draw(top, left, topY);
  groups.push(
    ...across(left, left + front.width * scale, bottom - 9, front.width),
    ...upwards(bottom, bottom + front.height * scale, left - 9, front.height),
    ...across(rightX, rightX + right.width * scale, bottom - 9, right.width),
    ...notes.flatMap((note, index) => text(note, 'TEXT', { x: 28, y: 58 - index * 5.5, height: 3 })),
  );
  const said: Readonly<Record<string, string>> = { ...fields, SCALE: sayScale(scale) };
  return [
    ...header(),
    ...tables(),
    ...blocks(frame),
    ...section('ENTITIES', [...groups, ...titleBlock(said)]),
    [0, 'EOF'] as Group,
  ]
    .map(([code, value]) => `${code}\n${value}\n`)
    .join('');
}

/** The company's frame: a border with marks, drawn on by every sheet. */
export function frameSheet(company: string): string {
  const { width, height } = PAPER;
  const box = (inset: number): Polyline => [
    [inset, inset],
    [width - inset, inset],
    [width - inset, height - inset],
    [inset, height - inset],
    [inset, inset],
  ];
  const at = { x: 0, y: 0, scale: 1 };
  const groups = [
    ...polyline(box(5), 'FRAME', at),
    ...polyline(box(10), 'FRAME', at),
    ...text(company, 'TEXT', { x: 12, y: 6.2, height: 2.5 }),
  ];
  return [...header(), ...tables(), ...section('ENTITIES', groups), [0, 'EOF'] as Group]
    .map(([code, value]) => `${code}\n${value}\n`)
    .join('');
}

function scaleFor(width: number, height: number): number {
  const room = { width: AREA.width - GAP - 20, height: AREA.height - GAP - 20 };
  return SCALES.find((scale) => width * scale <= room.width && height * scale <= room.height) ?? 1 / 100;
}

function sayScale(scale: number): string {
  return scale >= 1 ? `${scale}:1` : `1:${Math.round(1 / scale)}`;
}

function header(): Group[] {
  return section('HEADER', [
    [9, '$INSUNITS'],
    [70, 4],
    [9, '$EXTMIN'],
    [10, 0],
    [20, 0],
    [9, '$EXTMAX'],
    [10, PAPER.width],
    [20, PAPER.height],
  ]);
}

function tables(): Group[] {
  const layers: readonly (readonly [string, number])[] = [
    ['VISIBLE', COLOUR.ink],
    ['HIDDEN', COLOUR.hidden],
    ['DIMENSION', COLOUR.dimension],
    ['FRAME', COLOUR.frame],
    ['TEXT', COLOUR.ink],
    ['TITLE', COLOUR.frame],
  ];
  return section('TABLES', [
    [0, 'TABLE'],
    [2, 'LAYER'],
    [70, layers.length],
    ...layers.flatMap(([name, colour]): Group[] => [
      [0, 'LAYER'],
      [2, name],
      [70, 0],
      [62, colour],
      [6, 'CONTINUOUS'],
    ]),
    [0, 'ENDTAB'],
  ]);
}

/** Columns of the title block: tag, caption, x, y, width. */
const FIELDS: readonly (readonly [string, string, number, number, number])[] = [
  ['TITLE', 'Title', 0, 24, 110],
  ['DRAWING_NUMBER', 'Drawing', 110, 24, 60],
  ['PART_NUMBER', 'Item', 0, 12, 55],
  ['MATERIAL', 'Material', 55, 12, 75],
  ['MASS', 'Mass', 130, 12, 40],
  ['DRAWN_BY', 'Drawn', 0, 0, 45],
  ['DATE', 'Date', 45, 0, 30],
  ['REVISION', 'Rev.', 75, 0, 15],
  ['SCALE', 'Scale', 90, 0, 20],
  ['TOLERANCES', 'Tolerances', 110, 0, 60],
];
const TITLE_AT = { x: 240, y: 10 } as const;
const FIELD_HEIGHT = 12;

function blocks(frame: string): Group[] {
  const lines = FIELDS.flatMap(([, caption, x, y, width]): Group[] => [
    ...polyline(
      [
        [x, y],
        [x + width, y],
        [x + width, y + FIELD_HEIGHT],
        [x, y + FIELD_HEIGHT],
        [x, y],
      ],
      'TITLE',
      { x: 0, y: 0, scale: 1 },
    ),
    ...text(caption, 'TITLE', { x: x + 1.5, y: y + 8.8, height: 2 }),
  ]);
  const block = (name: string, flags: number, path: string, entities: readonly Group[]): Group[] => [
    [0, 'BLOCK'],
    [8, '0'],
    [2, name],
    [70, flags],
    [10, 0],
    [20, 0],
    [30, 0],
    [3, name],
    [1, path],
    ...entities,
    [0, 'ENDBLK'],
    [8, '0'],
  ];
  return section('BLOCKS', [...block('A3-FRAME', 4, frame, []), ...block('TITLE', 2, '', lines)]);
}

function titleBlock(said: Readonly<Record<string, string>>): Group[] {
  return [
    [0, 'INSERT'],
    [8, 'FRAME'],
    [2, 'A3-FRAME'],
    [10, 0],
    [20, 0],
    [30, 0],
    [0, 'INSERT'],
    [8, 'TITLE'],
    [66, 1],
    [2, 'TITLE'],
    [10, TITLE_AT.x],
    [20, TITLE_AT.y],
    [30, 0],
    ...FIELDS.flatMap(([tag, , x, y]): Group[] => [
      [0, 'ATTRIB'],
      [8, 'TEXT'],
      [10, TITLE_AT.x + x + 1.5],
      [20, TITLE_AT.y + y + 2.5],
      [30, 0],
      [40, 3],
      [1, said[tag] ?? ''],
      [2, tag],
      [70, 0],
    ]),
    [0, 'SEQEND'],
    [8, 'TITLE'],
  ];
}

interface At {
  readonly x: number;
  readonly y: number;
  readonly scale: number;
}

function polyline(points: Polyline, layer: string, { x, y, scale }: At): Group[] {
  const at = (value: number): number => Math.round(value * 100) / 100;
  return [
    [0, 'LWPOLYLINE'],
    [8, layer],
    [90, points.length],
    [70, 0],
    ...points.flatMap(([px, py]): Group[] => [
      [10, at(x + px * scale)],
      [20, at(y + py * scale)],
    ]),
  ];
}

function text(
  said: string,
  layer: string,
  { x, y, height }: { x: number; y: number; height: number },
): Group[] {
  return [
    [0, 'TEXT'],
    [8, layer],
    [10, x],
    [20, y],
    [30, 0],
    [40, height],
    [1, said],
  ];
}

/** A length along the bottom of a view, with its extension lines. */
function across(from: number, to: number, y: number, length: number): Group[] {
  const at = { x: 0, y: 0, scale: 1 };
  return [
    ...polyline(
      [
        [from, y],
        [to, y],
      ],
      'DIMENSION',
      at,
    ),
    ...polyline(
      [
        [from, y - 1.5],
        [from, y + 6],
      ],
      'DIMENSION',
      at,
    ),
    ...polyline(
      [
        [to, y - 1.5],
        [to, y + 6],
      ],
      'DIMENSION',
      at,
    ),
    ...text(sayLength(length), 'DIMENSION', { x: (from + to) / 2 - 3, y: y + 1, height: 2.5 }),
  ];
}

function upwards(from: number, to: number, x: number, length: number): Group[] {
  const at = { x: 0, y: 0, scale: 1 };
  return [
    ...polyline(
      [
        [x, from],
        [x, to],
      ],
      'DIMENSION',
      at,
    ),
    ...polyline(
      [
        [x - 1.5, from],
        [x + 6, from],
      ],
      'DIMENSION',
      at,
    ),
    ...polyline(
      [
        [x - 1.5, to],
        [x + 6, to],
      ],
      'DIMENSION',
      at,
    ),
    ...text(sayLength(length), 'DIMENSION', { x: x - 11, y: (from + to) / 2, height: 2.5 }),
  ];
}

function sayLength(length: number): string {
  return String(Number(length.toFixed(1)));
}

function section(name: string, groups: readonly Group[]): Group[] {
  return [[0, 'SECTION'], [2, name], ...groups, [0, 'ENDSEC']];
}
