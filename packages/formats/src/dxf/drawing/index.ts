/** Drawings as they are to be seen; runs in browsers too. */
import type { Drawing, Sheet } from '@stem-trace/core/sheet';
import { nameKey } from '../../step/file-names.js';
import { contentsOf, type Contents, type Whole } from './contents.js';
import { Drawer, type MostDrawn } from './draw.js';

/** Millimetres of a unit by `$INSUNITS` (DXF reference, header variables). */
const UNIT_MM: Readonly<Record<number, number>> = {
  ...{ 1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000, 8: 2.54e-5, 9: 0.0254, 10: 914.4, 13: 0.001, 14: 100 },
};

/**
 * What an ASCII DXF file of any version shows, sheet by sheet; what it holds that is not drawn is counted with the reason.
 * `O(bytes + marks)`; no more marks than can be looked at, however blocks multiply.
 *
 * @param others drawings that it draws on: where they are attached, their model is drawn; found by their file's name
 * @param most where a file whose blocks multiply ends; more than any drawing that a person can read where it is not said
 * @throws FormatError where the file is no ASCII DXF
 */
export function drawingOf(
  bytes: Uint8Array,
  others: readonly OtherDrawing[] = [],
  most?: MostDrawn,
): Drawing {
  const contents = contentsOf(bytes);
  const byName = new Map(others.map((other) => [nameKey(other.name), other]));
  const attached = (path: string): ReturnType<typeof readable> => {
    const other = byName.get(nameKey(path));
    return other && readable(other.bytes);
  };
  const drawer = new Drawer(contents, attached, undefined, most);
  const model: Paper = { name: 'Model', wholes: contents.model, paperMm: null };
  const sheetOf = ({ name, wholes, paperMm }: Paper, isPaper: boolean): Sheet => ({
    ...{ name, paperMm },
    marks: drawer.sheet(wholes, { isPaper }),
  });
  const sheets = [...papers(contents).map((paper) => sheetOf(paper, true)), sheetOf(model, false)].filter(
    ({ marks }) => marks.length > 0,
  );
  return {
    sheets,
    layers: drawer.looks.list.entries.map(({ name, isOn, isPrinted }) => ({
      ...{ name, isOn },
      // Points that dimensions are defined by are never printed.
      isPrinted: isPrinted && name.toLowerCase() !== 'defpoints',
    })),
    unitMm: UNIT_MM[Number(contents.header.get('$INSUNITS'))] ?? null,
    undrawn: drawer.undrawn,
  };
}

export interface OtherDrawing {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** One that cannot be read is as good as missing. */
function readable(bytes: Uint8Array): Contents | undefined {
  try {
    return contentsOf(bytes);
  } catch {
    return undefined;
  }
}

interface Paper {
  readonly name: string;
  readonly wholes: readonly Whole[];
  readonly paperMm: readonly [number, number] | null;
}

/** Sheets of paper in the order of their tabs. Of the one that was open, the entities stand with those of the model. */
function papers({ layouts, blockNames, blocks, paper }: Contents): Paper[] {
  const named = [...layouts]
    .sort((a, b) => a.order - b.order)
    .flatMap(({ name, blockHandle, paperMm }): Paper[] => {
      const block = blockNames.get(blockHandle) ?? '';
      if (!block.startsWith('*paper_space')) return [];
      const wholes = block === '*paper_space' ? paper : (blocks.get(block)?.wholes ?? []);
      return [{ name, wholes, paperMm }];
    });
  const isTold = named.some(({ wholes }) => wholes === paper);
  return isTold || paper.length === 0 ? named : [{ name: 'Paper', wholes: paper, paperMm: null }, ...named];
}
