/** Drawing sheets as DXF: views on A3 paper, a filled title block, the company's frame as a file attached. */
import {
  Attrib,
  BlockFlags,
  DxfWriter,
  point3d,
  SeqEnd,
  Units,
  type EntitiesManager,
} from '@tarikjabiri/dxf';
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
  /** List of parts (ISO 7573), the heading first; none where empty. */
  readonly list: readonly (readonly string[])[];
  /** Path of the frame, as seen from the drawing. */
  readonly frame: string;
}

/** `front` at the lower left, `top` above it as seen from below the fold, `right` to its right. */
export function drawingSheet({ views, fields, notes, list, frame }: SheetContents): string {
  const { front, top, right } = views;
  const scale = scaleFor(front.width + right.width, front.height + top.height);
  const sheet = newSheet();
  const draw = (view: View, x: number, y: number): void => {
    for (const line of view.hidden) polyline(sheet.modelSpace, line, 'HIDDEN', { x, y, scale });
    for (const line of view.visible) polyline(sheet.modelSpace, line, 'VISIBLE', { x, y, scale });
  };
  const left = AREA.left + 14;
  const bottom = AREA.bottom + 14;
  const rightX = left + front.width * scale + GAP;
  const topY = bottom + front.height * scale + GAP;
  draw(front, left, bottom);
  draw(right, rightX, bottom);
  draw(top, left, topY);
  across(sheet.modelSpace, { from: left, to: left + front.width * scale, at: bottom - 9 }, front.width);
  upwards(sheet.modelSpace, { from: bottom, to: bottom + front.height * scale, at: left - 9 }, front.height);
  across(sheet.modelSpace, { from: rightX, to: rightX + right.width * scale, at: bottom - 9 }, right.width);
  notes.forEach((note, index) =>
    text(sheet.modelSpace, note, 'TEXT', { x: 28, y: 58 - index * 5.5, height: 3 }),
  );
  partsList(sheet.modelSpace, list);
  attachFrame(sheet, frame);
  titleBlock(sheet, { ...fields, SCALE: sayScale(scale) });
  return sheet.stringify();
}

/** Where the columns of the list begin; it hangs from the upper right corner, where no view stands. */
const LIST_COLUMNS = [242, 258, 292, 384] as const;
const LIST_TOP = 276;
const LIST_ROW = 6;

function partsList(into: EntitiesManager, rows: readonly (readonly string[])[]): void {
  rows.forEach((cells, at) => {
    const y = LIST_TOP - at * LIST_ROW;
    cells.forEach((cell, column) =>
      text(into, cell, 'TEXT', { x: LIST_COLUMNS[column] ?? 0, y, height: 2.5 }),
    );
    const line: Polyline = [
      [240, y - 1.8],
      [400, y - 1.8],
    ];
    polyline(into, line, 'FRAME', { x: 0, y: 0, scale: 1 });
  });
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
  const sheet = newSheet();
  polyline(sheet.modelSpace, box(5), 'FRAME', at);
  polyline(sheet.modelSpace, box(10), 'FRAME', at);
  text(sheet.modelSpace, company, 'TEXT', { x: 12, y: 6.2, height: 2.5 });
  return sheet.stringify();
}

function scaleFor(width: number, height: number): number {
  const room = { width: AREA.width - GAP - 20, height: AREA.height - GAP - 20 };
  return SCALES.find((scale) => width * scale <= room.width && height * scale <= room.height) ?? 1 / 100;
}

function sayScale(scale: number): string {
  return scale >= 1 ? `${scale}:1` : `1:${Math.round(1 / scale)}`;
}

/** An empty drawing of release 2010 on A3 paper, in millimetres. */
function newSheet(): DxfWriter {
  const sheet = new DxfWriter();
  sheet.setUnits(Units.Millimeters);
  sheet.setVariable('$ACADVER', { 1: 'AC1024' });
  sheet.setVariable('$EXTMIN', { 10: 0, 20: 0, 30: 0 });
  sheet.setVariable('$EXTMAX', { 10: PAPER.width, 20: PAPER.height, 30: 0 });
  for (const [name, colour] of LAYERS) sheet.addLayer(name, colour, 'Continuous');
  return sheet;
}

const LAYERS: readonly (readonly [string, number])[] = [
  ['VISIBLE', COLOUR.ink],
  ['HIDDEN', COLOUR.hidden],
  ['DIMENSION', COLOUR.dimension],
  ['FRAME', COLOUR.frame],
  ['TEXT', COLOUR.ink],
  ['TITLE', COLOUR.frame],
];

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
  ['FINISH', 'Finish', 0, 36, 170],
];
const TITLE_AT = { x: 240, y: 10 } as const;
const FIELD_HEIGHT = 12;

function attachFrame(sheet: DxfWriter, frame: string): void {
  const block = sheet.addBlock('A3-FRAME');
  block.flags = BlockFlags.XRef;
  block.xrefPathName = frame;
  sheet.modelSpace.addInsert('A3-FRAME', point3d(0, 0, 0), { layerName: 'FRAME' });
}

function titleBlock(sheet: DxfWriter, said: Readonly<Record<string, string>>): void {
  const block = sheet.addBlock('TITLE');
  block.flags = BlockFlags.HasNonConstantAttribute;
  for (const [, caption, x, y, width] of FIELDS) {
    const corners: Polyline = [
      [x, y],
      [x + width, y],
      [x + width, y + FIELD_HEIGHT],
      [x, y + FIELD_HEIGHT],
      [x, y],
    ];
    polyline(block, corners, 'TITLE', { x: 0, y: 0, scale: 1 });
    text(block, caption, 'TITLE', { x: x + 1.5, y: y + 8.8, height: 2 });
  }
  for (const [tag, caption, x, y] of FIELDS)
    block.addAttdef(point3d(x + 1.5, y + 2.5, 0), 3, tag, caption, { layerName: 'TEXT' });
  const insert = sheet.modelSpace.addInsert('TITLE', point3d(TITLE_AT.x, TITLE_AT.y, 0), {
    layerName: 'TITLE',
  });
  insert.attributesFollowFlag = 1;
  for (const [tag, , x, y] of FIELDS) {
    const at = point3d(TITLE_AT.x + x + 1.5, TITLE_AT.y + y + 2.5, 0);
    const attribute = new Attrib(at, 3, tag, said[tag] ?? '', { layerName: 'TEXT' });
    sheet.modelSpace.addEntity(attribute).ownerBlockRecord = insert.handle;
  }
  // One end behind all of them; the library's own way to add an attribute ends the sequence behind each.
  const end = sheet.modelSpace.addEntity(new SeqEnd());
  end.ownerBlockRecord = insert.handle;
  end.layerName = 'TITLE';
}

interface At {
  readonly x: number;
  readonly y: number;
  readonly scale: number;
}

function polyline(into: EntitiesManager, points: Polyline, layerName: string, { x, y, scale }: At): void {
  const at = (value: number): number => Math.round(value * 100) / 100;
  into.addLWPolyline(
    points.map(([px, py]) => ({ point: { x: at(x + px * scale), y: at(y + py * scale) } })),
    { layerName },
  );
}

function text(
  into: EntitiesManager,
  said: string,
  layerName: string,
  { x, y, height }: { x: number; y: number; height: number },
): void {
  into.addText(point3d(x, y, 0), height, said, { layerName });
}

interface Span {
  readonly from: number;
  readonly to: number;
  /** Where the line stands, across its own direction. */
  readonly at: number;
}

/** A length along the bottom of a view, with its extension lines. */
function across(into: EntitiesManager, { from, to, at: y }: Span, length: number): void {
  const lines: readonly Polyline[] = [
    [
      [from, y],
      [to, y],
    ],
    [
      [from, y - 1.5],
      [from, y + 6],
    ],
    [
      [to, y - 1.5],
      [to, y + 6],
    ],
  ];
  for (const line of lines) polyline(into, line, 'DIMENSION', { x: 0, y: 0, scale: 1 });
  text(into, sayLength(length), 'DIMENSION', { x: (from + to) / 2 - 3, y: y + 1, height: 2.5 });
}

function upwards(into: EntitiesManager, { from, to, at: x }: Span, length: number): void {
  const lines: readonly Polyline[] = [
    [
      [x, from],
      [x, to],
    ],
    [
      [x - 1.5, from],
      [x + 6, from],
    ],
    [
      [x - 1.5, to],
      [x + 6, to],
    ],
  ];
  for (const line of lines) polyline(into, line, 'DIMENSION', { x: 0, y: 0, scale: 1 });
  text(into, sayLength(length), 'DIMENSION', { x: x - 11, y: (from + to) / 2, height: 2.5 });
}

function sayLength(length: number): string {
  return String(Number(length.toFixed(1)));
}
