/** What is printed is read back by another library. */
import { degrees, PDFDocument } from 'pdf-lib';
import { getDocument, OPS, Util } from 'pdfjs-dist/legacy/build/pdf.mjs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Drawing, Lettering, Mark, Spot } from '@stem-trace/core/sheet';
import { FormatError } from '../errors.js';
import { paperFor } from './paper.js';
import { printDrawing, printImage, printPages, printSheets } from './print.js';
import type { ListedMark } from './printer.js';

const LOOK = { layer: 0, colour: null, weightMm: 0.5, dashes: [], width: 0 };
const line = (...spots: Spot[]): Mark => ({ kind: 'stroke', look: LOOK, spots });
const letters = (text: string, at: Spot): Lettering => ({
  ...{ kind: 'lettering', look: LOOK, at, height: 5, turn: 0, stretch: 1, across: 'left', up: 'base' },
  ...{ lines: [text], lineStep: 8, tag: '' },
});
const FRAME = line([5, 5], [415, 5], [415, 292], [5, 292], [5, 5]);
const drawing = (marks: readonly Mark[], unitMm: number | null = 1): Drawing => ({
  ...{ layers: [{ name: '0', isOn: true, isPrinted: true }], unitMm, undrawn: [] },
  sheets: [{ name: 'Model', marks, paperMm: null }],
});
const OPTIONS = { title: 'FM-1 A/1', made: '2026-03-31', marks: [] as readonly ListedMark[], sheet: '' };
const mark = (more: Partial<ListedMark> = {}): ListedMark => ({
  ...{ number: 1, kind: 'box', tone: 'change', sheet: 'Model', words: 'chamfer', isSettled: false },
  ...{
    spots: [
      [20, 20],
      [60, 40],
    ],
    by: 'Ines',
    at: '2026-03-31',
    remarks: [],
  },
  ...more,
});

interface Read {
  readonly width: number;
  readonly height: number;
  readonly texts: readonly { readonly text: string; readonly x: number; readonly y: number }[];
  readonly strokes: number;
}

async function read(bytes: Uint8Array): Promise<Read[]> {
  const pdf = await getDocument({ data: bytes.slice(), verbosity: 0 }).promise;
  return Promise.all(
    Array.from({ length: pdf.numPages }, async (_, at) => {
      const page = await pdf.getPage(at + 1);
      const { width, height } = page.getViewport({ scale: 1 });
      const { items } = await page.getTextContent();
      const { fnArray } = await page.getOperatorList();
      return {
        ...{ width, height, strokes: fnArray.filter((each) => each === OPS.constructPath).length },
        texts: items.flatMap((item) => {
          if (!('str' in item) || item.str.trim() === '') return [];
          const [, , , , x = 0, y = 0] = item.transform as number[];
          return [{ text: item.str, x, y }];
        }),
      };
    }),
  );
}

const MM = 25.4 / 72;

describe('a drawing on paper', () => {
  it('is to scale: what is a millimetre there is one on paper, on the smallest paper that holds it', async () => {
    const { bytes, paper } = await printDrawing(drawing([FRAME, letters('M8', [105, 100])]), OPTIONS);
    const [page] = await read(bytes);
    expect([paper.name, paper.isToScale]).toEqual(['A3', true]);
    expect([page?.width, page?.height].map((points) => Math.round((points ?? 0) * MM))).toEqual([420, 297]);
    const [text] = page?.texts ?? [];
    // The frame lies in the middle of the paper, so that its 5 mm of border are 5 mm.
    expect([(text?.x ?? 0) * MM, (text?.y ?? 0) * MM].map((mm) => Number(mm.toFixed(3)))).toEqual([105, 100]);
  });

  it('keeps distances at whatever scale and unit', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(1, 0.5, 0.1),
        fc.constantFrom(1, 10),
        fc.integer({ min: 50, max: 110 }),
        async (scale, unitMm, apart) => {
          const { bytes } = await printDrawing(
            drawing([letters('a', [0, 0]), letters('b', [apart, 0])], unitMm),
            { ...OPTIONS, scale },
          );
          const [a, b] = (await read(bytes))[0]?.texts ?? [];
          expect(((b?.x ?? 0) - (a?.x ?? 0)) * MM).toBeCloseTo(apart * unitMm * scale, 2);
        },
      ),
      { numRuns: 16 },
    );
  });

  it('is fitted to A3 where it is larger than any paper, and refused at a scale that no paper holds', async () => {
    const large = drawing([line([0, 0], [9000, 300])]);
    expect((await printDrawing(large, OPTIONS)).paper).toMatchObject({ name: 'A3', isToScale: false });
    expect((await printDrawing(large, { ...OPTIONS, scale: 0.1 })).paper).toMatchObject({
      name: 'A0',
      isToScale: true,
    });
    await expect(printDrawing(large, { ...OPTIONS, scale: 1 })).rejects.toBeInstanceOf(FormatError);
    await expect(printDrawing(drawing([]), OPTIONS)).rejects.toThrow(/nothing on this sheet/);
  });

  it('leaves out layers that are not printed, and shows a box for what the font lacks', async () => {
    const off: Drawing = {
      ...drawing([letters('secret', [0, 0])]),
      layers: [{ name: '0', isOn: true, isPrinted: false }],
    };
    expect((await read((await printDrawing(off, OPTIONS)).bytes))[0]?.texts).toEqual([]);
    const strange = await printDrawing(drawing([letters('a\u{20000}\u{20000}', [0, 0])]), OPTIONS);
    expect((await read(strange.bytes))[0]?.texts.map(({ text }) => text)).toEqual(['a\u25A1\u25A1']);
  });

  it('goes with what was drawn on it, and the list of all that was written, in full', async () => {
    const words = 'The chamfer is missing at the upper edge. '.repeat(8).trim();
    const marks = [
      mark({ words, remarks: [{ by: 'Pavo', at: '2026-04-01', words: 'Mended' }] }),
      mark({ number: 2, kind: 'text', words: 'M8 here', spots: [[100, 100]] }),
      ...(['pen', 'line', 'arrow', 'cloud', 'measure', 'pin'] as const).map((kind, at) =>
        mark({ kind, number: at + 3 }),
      ),
      mark({ number: 9, sheet: 'Paper' }),
    ];
    const plain = await read((await printDrawing(drawing([FRAME]), OPTIONS)).bytes);
    const pages = await read((await printDrawing(drawing([FRAME]), { ...OPTIONS, marks })).bytes);
    const [sheet, ...list] = pages;
    expect(sheet?.texts.map(({ text }) => text)).toEqual(expect.arrayContaining(['1', '2', 'M8 here', '8']));
    expect(sheet?.texts.map(({ text }) => text)).not.toContain('9');
    expect(sheet?.strokes).toBeGreaterThan((plain[0]?.strokes ?? 0) + 8);
    const told = list.flatMap(({ texts }) => texts.map(({ text }) => text)).join(' ');
    expect(told.replace(/\s+/g, ' ')).toContain('Mended');
    for (const word of ['9', 'settled', 'open', 'Ines', 'Pavo'].filter((each) => each !== 'settled'))
      expect(told).toContain(word);
    const said = list
      .flatMap(({ texts }) => texts.map(({ text }) => text))
      .filter((text) => /chamfer|edge|missing/.test(text));
    expect(said.join(' ').match(/missing/g)?.length).toBe(8);
  });
});

describe('pages and pictures', () => {
  it('are printed as they are, with marks where they were drawn, also on pages that are turned or cut', async () => {
    const source = await PDFDocument.create();
    for (const turn of [0, 90, 180, 270]) {
      const page = source.addPage([300, 200]);
      page.setCropBox(20, 10, 260, 180);
      page.setRotation({ type: 'degrees', angle: turn } as Parameters<typeof page.setRotation>[0]);
    }
    const marks = [1, 2, 3, 4].map((number) =>
      mark({ number, kind: 'pin', sheet: `page ${number}`, spots: [[30, 40]], words: '' }),
    );
    const { bytes } = await printPages(await source.save(), { ...OPTIONS, marks });
    const pdf = await getDocument({ data: bytes.slice(), verbosity: 0 }).promise;
    expect(pdf.numPages).toBe(5);
    for (const number of [1, 2, 3, 4]) {
      const page = await pdf.getPage(number);
      const viewport = page.getViewport({ scale: 1 });
      const [item] = (await page.getTextContent()).items;
      if (!item || !('str' in item)) throw new Error('no sign');
      const [x = 0, y = 0] = viewport.convertToViewportPoint(
        item.transform[4] as number,
        item.transform[5] as number,
      ) as number[];
      // The number stands in its sign, a few points from where the pin was put as the page is looked at.
      expect(Math.hypot(x - 30, viewport.height - y - 40), `turned ${number}`).toBeLessThan(5);
    }
  });

  it('are refused in words where they cannot be read', async () => {
    await expect(printPages(new TextEncoder().encode('%PDF-1.4 nothing'), OPTIONS)).rejects.toBeInstanceOf(
      FormatError,
    );
    await expect(printImage(new Uint8Array([1, 2, 3]), OPTIONS)).rejects.toThrow(/only PNG and JPEG/);
    await expect(printImage(new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0, 0]), OPTIONS)).rejects.toBeInstanceOf(
      FormatError,
    );
  });
});

describe('paper', () => {
  it('always holds what it is chosen for, upright or across', () => {
    const size = fc.double({ min: 0.1, max: 20_000, noNaN: true });
    fc.assert(
      fc.property(size, size, fc.constantFrom(undefined, 1, 0.1), (wide, tall, scale) => {
        const paper = paperFor({ low: [0, 0], high: [wide, tall] }, 1, scale);
        if (!paper) {
          expect(
            Math.max(wide, tall) * (scale ?? 0) > 1189 || Math.min(wide, tall) * (scale ?? 0) > 841,
          ).toBe(true);
          return;
        }
        expect(wide * paper.mmPerUnit).toBeLessThanOrEqual(paper.widthMm + 0.51);
        expect(tall * paper.mmPerUnit).toBeLessThanOrEqual(paper.heightMm + 0.51);
        if (paper.isToScale) expect(paper.mmPerUnit).toBe(scale ?? 1);
      }),
    );
  });
});

describe('a stamp', () => {
  const STAMP = 'FM-1 · revision A (A/1) · released 2026-03-31';

  it('stands at the upper edge of every page as it is looked at, however that is turned', async () => {
    const source = await PDFDocument.create();
    for (const turn of [0, 90, 180, 270]) source.addPage([400, 600]).setRotation(degrees(turn));
    const { bytes } = await printPages(await source.save(), { ...OPTIONS, stamp: STAMP });
    const pdf = await getDocument({ data: bytes.slice(), verbosity: 0 }).promise;
    for (let number = 1; number <= 4; number++) {
      const page = await pdf.getPage(number);
      const view = page.getViewport({ scale: 1 });
      const [item] = (await page.getTextContent()).items;
      if (!item || !('str' in item)) throw new Error('there is no text');
      expect(item.str).toBe(STAMP);
      // In the view y runs down, and letters that stand upright rise.
      const [a = 0, b = 0, , , x = 0, y = 0] = Util.transform(
        view.transform,
        item.transform as number[],
      ) as number[];
      expect([Math.sign(a), Math.round(b)]).toEqual([1, 0]);
      expect(x).toBeLessThan(20);
      expect(y).toBeLessThan(20);
      expect(y).toBeGreaterThan(0);
    }
  });

  it('becomes smaller where the page is narrow, and is never cut off', async () => {
    const { bytes } = await printSheets(drawing([line([0, 0], [20, 280])]), {
      ...OPTIONS,
      stamp: STAMP.repeat(9),
    });
    const pdf = await getDocument({ data: bytes.slice(), verbosity: 0 }).promise;
    const page = await pdf.getPage(1);
    const [item] = (await page.getTextContent()).items;
    if (!item || !('str' in item)) throw new Error('there is no text');
    expect(item.width).toBeLessThan(page.getViewport({ scale: 1 }).width);
  });

  it('writes every script, whatever stands beside it, and it reads as it was written', async () => {
    const said = 'Water 水 かハ 한국어 हिन्दी ไทย ქართული Ж';
    const { bytes, missing } = await printSheets(drawing([letters(said, [0, 0])]), OPTIONS);
    expect(missing).toEqual([]);
    const [page] = await read(bytes);
    const together = page?.texts.map(({ text }) => text).join('') ?? '';
    expect(together.replace(/\s+/g, '')).toBe(said.replace(/\s+/g, ''));
    // A document that needs no more has no more in it.
    const plain = await printSheets(drawing([letters('Water Ж', [0, 0])]), OPTIONS);
    const fontsIn = (file: Uint8Array): number =>
      [
        ...Buffer.from(file)
          .toString('latin1')
          .matchAll(/\/FontFile2/g),
      ].length;
    expect(fontsIn(plain.bytes)).toBeLessThanOrEqual(fontsIn(bytes));
  });

  it('says which characters no font has, each once', async () => {
    const { missing } = await printSheets(drawing([letters('𝛼 水 a 𝛼', [0, 0])]), {
      ...OPTIONS,
      stamp: 'B 火 𠀀',
    });
    expect(missing).toEqual(['𝛼', '𠀀']);
  });
});

describe('all sheets of a drawing', () => {
  const sheet = (name: string, marks: readonly Mark[], paperMm: Spot | null): Drawing['sheets'][number] => ({
    ...{ name, marks, paperMm },
  });

  it('are a page each; the model is one only where there is no paper', async () => {
    const model = drawing([FRAME]);
    expect(await read((await printSheets(model, OPTIONS)).bytes)).toHaveLength(1);
    const papers = {
      ...model,
      sheets: [...model.sheets, sheet('One', [FRAME], [420, 297]), sheet('Two', [FRAME], [420, 297])],
    };
    const { bytes, fitted } = await printSheets(papers, OPTIONS);
    expect([(await read(bytes)).length, fitted]).toEqual([2, []]);
  });

  it('say which of them were fitted to the page', async () => {
    const { fitted } = await printSheets(drawing([line([0, 0], [9000, 4000])]), OPTIONS);
    expect(fitted).toEqual(['Model']);
    await expect(printSheets(drawing([]), OPTIONS)).rejects.toThrow(/nothing on its sheets/);
  });
});
