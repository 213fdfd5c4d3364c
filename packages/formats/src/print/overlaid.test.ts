/** What is laid over each other is read back by another library. */
import { overlayDrawings, type Drawing, type Mark, type Spot } from '@stem-trace/core/sheet';
import { degrees, PDFDocument, rgb } from 'pdf-lib';
import { getDocument, OPS } from 'pdfjs-dist/legacy/build/pdf.mjs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FormatError } from '../errors.js';
import type { OutTable } from '../tables/table.js';
import { blendPages } from './blend-pages.js';
import { printOverlaid, type OverlaidPart } from './overlaid.js';

const LOOK = { layer: 0, colour: null, weightMm: 0.5, dashes: [], width: 0 };
const line = (...spots: Spot[]): Mark => ({ kind: 'stroke', look: LOOK, spots });
const FRAME = line([5, 5], [415, 5], [415, 292], [5, 292], [5, 5]);
const drawing = (sheets: Readonly<Record<string, readonly Mark[]>>): Drawing => ({
  ...{ layers: [{ name: '0', isOn: true, isPrinted: true }], unitMm: 1, undrawn: [] },
  sheets: Object.entries(sheets).map(([name, marks]) => ({ name, marks, paperMm: [420, 297] })),
});
const TABLE: OutTable = {
  ...{ title: 'Change notice CO-1', says: [], columns: [{ title: 'What', width: 10 }] },
  rows: [{ level: 1, cells: ['FM-1'] }],
};
const part = (before: Drawing, after: Drawing): OverlaidPart => ({
  title: 'FM-1 A/1 → A/2',
  shows: { kind: 'drawing', sheets: overlayDrawings(before, after), unitMm: 1 },
});
const INKS = { before: '#96470f', after: '#1b59b3', both: '#b4bcc0', around: '#4a575e' };

interface Page {
  readonly size: readonly number[];
  readonly text: string;
  readonly inks: readonly string[];
}

async function read(bytes: Uint8Array): Promise<Page[]> {
  const pdf = await getDocument({ data: bytes.slice(), verbosity: 0 }).promise;
  return Promise.all(
    Array.from({ length: pdf.numPages }, async (_, at) => {
      const page = await pdf.getPage(at + 1);
      const { width, height } = page.getViewport({ scale: 1 });
      const { items } = await page.getTextContent();
      const { fnArray, argsArray } = await page.getOperatorList();
      const inks = fnArray.flatMap((each, index) => {
        if (each !== OPS.setStrokeRGBColor && each !== OPS.setFillRGBColor) return [];
        const [ink] = argsArray[index] as [string];
        return Object.entries(INKS).flatMap(([name, hex]) => (hex === ink ? name : []));
      });
      return {
        ...{ size: [width, height].map((points) => Math.round((points * 25.4) / 72)) },
        ...{ text: items.map((item) => ('str' in item ? item.str : '')).join(''), inks: [...new Set(inks)] },
      };
    }),
  );
}

const printed = async (...parts: OverlaidPart[]): Promise<Page[]> =>
  read((await printOverlaid(TABLE, '2026-03-31', parts)).bytes);

describe('drawings laid over each other on paper', () => {
  it('says each side in its colour, to scale, and where they differ', async () => {
    const before = drawing({ 'Sheet 1': [FRAME, line([100, 100], [150, 100])] });
    const after = drawing({ 'Sheet 1': [FRAME, line([100, 130], [150, 130]), line([300, 200], [310, 200])] });
    const [table, page, ...more] = await printed(part(before, after));
    expect(table?.text).toContain('Change notice CO-1');
    expect(page).toEqual({
      size: [420, 297],
      text: expect.stringContaining('FM-1 A/1 → A/2, Sheet 1: differs at 3 places') as string,
      inks: ['both', 'before', 'after', 'around'],
    });
    expect(more).toEqual([]);
  });

  it('has no page for a sheet on which both show the same, and one for a sheet that only one has', async () => {
    const [same, moved] = [[FRAME], [FRAME, line([10, 10], [20, 10])]];
    const before = drawing({ 'Sheet 1': same, 'Sheet 2': moved });
    const after = drawing({ 'Sheet 1': same, 'Sheet 3': moved });
    const pages = await printed(part(before, after));
    expect(pages.slice(1).map(({ text, inks }) => [/Sheet \d: [^;]*/.exec(text)?.[0], inks])).toEqual([
      ['Sheet 3: a sheet that is only in what was after', ['after', 'around']],
      ['Sheet 2: a sheet that is only in what was before', ['before', 'around']],
    ]);
  });

  it('prints a colour where, and only where, a side has something of its own', async () => {
    const spot = fc.tuple(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 28 }));
    const lines = fc.array(fc.tuple(spot, spot), { maxLength: 4 });
    await fc.assert(
      fc.asyncProperty(lines, lines, async (first, second) => {
        const of = (all: typeof first): Drawing =>
          drawing({
            Model: [FRAME, ...all.map(([a, b]) => line([a[0] * 10, a[1] * 10], [b[0] * 10, b[1] * 10]))],
          });
        const pages = await printed(part(of(first), of(second)));
        const inks = pages[1]?.inks ?? [];
        // A second witness: spots of a fine grid that lie on a line of the one and on none of the other.
        expect([inks.includes('before'), inks.includes('after')]).toEqual([
          hasItsOwn(first, second),
          hasItsOwn(second, first),
        ]);
      }),
      { numRuns: 12 },
    );
  });
});

type Piece = readonly [readonly [number, number], readonly [number, number]];
const BORDER: readonly Piece[] = [
  [
    [0.5, 0.5],
    [41.5, 0.5],
  ],
];

function hasItsOwn(pieces: readonly Piece[], others: readonly Piece[]): boolean {
  return pieces.some(([a, b]) => {
    if (a[0] === b[0] && a[1] === b[1]) return false;
    // Irregular steps, so that no crossing is taken for lying on each other.
    return [0.0137, 0.2113, 0.4331, 0.6577, 0.8713, 0.9891].some((along) => {
      const spot = [a[0] + (b[0] - a[0]) * along, a[1] + (b[1] - a[1]) * along] as const;
      return ![...others, ...BORDER].some((other) => liesOn(spot, other));
    });
  });
}

function liesOn([x, y]: readonly [number, number], [a, b]: Piece): boolean {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const cross = (x - a[0]) * dy - (y - a[1]) * dx;
  const along = ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy || 1);
  return Math.abs(cross) < 1e-9 && along > -1e-9 && along < 1 + 1e-9;
}

async function paged(turn: number, ...lines: readonly (readonly [Spot, Spot])[]): Promise<Uint8Array> {
  const document = await PDFDocument.create();
  const page = document.addPage([300, 200]);
  page.setRotation(degrees(turn));
  for (const [[x, y], [toX, toY]] of lines)
    page.drawLine({ start: { x, y }, end: { x: toX, y: toY }, thickness: 4, color: rgb(0, 0, 0) });
  return document.save();
}

describe('pages of PDF laid over each other', () => {
  const one = [
    [20, 20],
    [200, 20],
  ] as const;

  it('are as large as they are looked at, however they are turned, and as many as the longer has', async () => {
    const parts = await Promise.all(
      [0, 90, 180, 270].map(async (turn): Promise<OverlaidPart> => ({
        title: `turned by ${turn}`,
        shows: { kind: 'pages', blended: await blendPages(await paged(0, one), await paged(turn, one)) },
      })),
    );
    const pages = (await printed(...parts)).slice(1);
    expect(pages.map(({ text }) => /turned by \d+, page 1/.exec(text)?.[0])).toEqual([
      ...['turned by 0, page 1', 'turned by 90, page 1', 'turned by 180, page 1', 'turned by 270, page 1'],
    ]);
    expect(pages.map(({ size }) => size)).toEqual([
      ...[
        [106, 71],
        [106, 106],
        [106, 71],
        [106, 106],
      ],
    ]);
  });

  it('have each its colour', async () => {
    const other = [
      [20, 100],
      [200, 100],
    ] as const;
    const pages = await printed({
      title: 'FM-2',
      shows: { kind: 'pages', blended: await blendPages(await paged(0, one), await paged(0, one, other)) },
    });
    expect(pages[1]?.inks).toEqual(expect.arrayContaining(['before', 'after']));
    expect(pages).toHaveLength(2);
  });

  it('that cannot be read are said so, wherever they are broken', async () => {
    const whole = await paged(0, one);
    await fc.assert(
      fc.asyncProperty(fc.nat(whole.length - 1), fc.nat(255), fc.boolean(), async (at, byte, isCut) => {
        const broken = isCut ? whole.slice(0, at) : whole.with(at, byte);
        for (const [before, after] of [
          [broken, whole],
          [whole, broken],
        ] as const)
          await blendPages(before, after).then(
            (blended) => expect(blended.length).toBeGreaterThan(0),
            (error: unknown) => expect(error).toBeInstanceOf(FormatError),
          );
      }),
      { numRuns: 60 },
    );
    await expect(blendPages(whole.slice(0, 40), whole)).rejects.toThrow(FormatError);
  });
});
