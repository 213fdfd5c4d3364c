/** Drawings as they are to be seen; runs in browsers too. */
import type { Drawing, Sheet } from '@stem-trace/core/sheet';
import { contentsOf, type Contents, type Whole } from './contents.js';
import { Drawer } from './draw.js';

/** Millimetres of a unit by `$INSUNITS` (DXF reference, header variables). */
const UNIT_MM: Readonly<Record<number, number>> = {
  ...{ 1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000, 8: 2.54e-5, 9: 0.0254, 10: 914.4, 13: 0.001, 14: 100 },
};

/**
 * What an ASCII DXF file of any version shows, sheet by sheet; what it holds that is not drawn is counted with the reason.
 * `O(bytes + marks)`; no more marks than can be looked at, however blocks multiply.
 *
 * @throws FormatError where the file is no ASCII DXF
 */
export function drawingOf(bytes: Uint8Array): Drawing {
  const contents = contentsOf(bytes);
  const drawer = new Drawer(contents);
  const sheets = [...papers(contents), { name: 'Model', wholes: contents.model, paperMm: null }]
    .map(({ name, wholes, paperMm }): Sheet => ({ name, paperMm, marks: drawer.sheet(wholes) }))
    .filter(({ marks }) => marks.length > 0);
  return {
    sheets,
    layers: drawer.looks.layers.map(({ name, isOn, isPrinted }) => ({
      ...{ name, isOn },
      // Points that dimensions are defined by are never printed.
      isPrinted: isPrinted && name.toLowerCase() !== 'defpoints',
    })),
    unitMm: UNIT_MM[Number(contents.header.get('$INSUNITS'))] ?? null,
    undrawn: drawer.undrawn,
  };
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
