/**
 * Writes the demo's design files, one folder for each time that files came in, and history.json beside them. Run by
 * hand when shapes or history change (`npm run generate -w demo`); the files are committed, so that a start needs no
 * geometry kernel.
 */
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { dirname, join, posix } from 'node:path';
import { fileURLToPath } from 'node:url';
import { multiply, IDENTITY_PLACEMENT, type Placement, type PropertyValue } from '@stem-trace/core';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import { exportSTEP, measureArea, measureVolume, type AnyShape, type Shape3D } from 'replicad';
import { CLASSES, DEFINITIONS, SCHEMES } from './catalogue.js';
import { boughtParts } from './bought.js';
import { datasheets, lists, specifications, terms, type DemoDocument } from './documents.js';
import { halfDoneAssemblies, halfDoneParts } from './half-done.js';
import { HISTORY, PEOPLE, type BringIn, type Stage } from './history.js';
import { loadKernel } from './kernel.js';
import { loggerBoard } from './logger-board.js';
import type { AssemblyModel, Model, PartModel } from './models.js';
import { optionAssemblies, optionParts } from './options.js';
import { placed, viewOf } from './projection.js';
import { riverAssemblies, riverParts } from './river-station.js';
import { drawingSheet, frameSheet } from './sheet.js';
import { snowAssemblies, snowParts } from './snow-station.js';
import { tideAssemblies, tideParts } from './tide-station.js';

const MODELS = join(dirname(fileURLToPath(import.meta.url)), '../models');
/** Assemblies whose drawing has a list of parts; the others refer to the BOM. */
const LISTED: ReadonlySet<string> = new Set(['FM-2200']);

const FRAME = 'Sheet frames/FM-A3 sheet frame.dxf';

/** Models that no folder brings in: one that its supplier has not sent yet, and copies that a derivation makes. */
const ELSEWHERE = [
  { number: 'FM-9501', name: 'Surge arrester', folder: 'Standard parts', file: undefined },
  { number: 'FM-7202', name: 'Arm end flange', folder: 'Snow depth station', file: 'FM-7202.stp' },
  { number: 'FM-7203', name: 'Arm end cap', folder: 'Snow depth station', file: 'FM-7203.stp' },
] as const;

await loadKernel();
await rm(MODELS, { recursive: true, force: true });
const brought = HISTORY.filter((step) => step.kind === 'bring in');
for (const step of brought) await writeFolder(step);
await writeFile(
  join(MODELS, 'history.json'),
  `${JSON.stringify(
    {
      place: '/Fenmark',
      people: PEOPLE,
      definitions: DEFINITIONS,
      classes: CLASSES,
      schemes: SCHEMES,
      history: HISTORY.map(withoutRecipe),
    },
    null,
    2,
  )}\n`,
);

/** What a store has to know of a step, without what only the making of its files needed. */
function withoutRecipe(step: (typeof HISTORY)[number]): object {
  if (step.kind !== 'bring in') return step;
  const { kind, folder, at, by, place, comment, release = [] } = step;
  return { kind, folder, at, by, ...(place === undefined ? {} : { place }), comment, release };
}

function modelsAt({ river, tide }: Stage): Model[] {
  return [
    ...riverParts(river),
    ...boughtParts(),
    ...tideParts(tide),
    ...halfDoneParts(),
    ...snowParts(),
    ...optionParts(),
    loggerBoard(),
    ...riverAssemblies(river),
    ...tideAssemblies(tide),
    ...halfDoneAssemblies(),
    ...snowAssemblies(),
    ...optionAssemblies(),
  ];
}

async function writeFolder(step: BringIn): Promise<void> {
  const models = modelsAt(step.stage);
  const files = [
    ...(await modelFiles(step, models)),
    ...drawingFiles(step, models),
    ...(await paperFiles(step, models)),
  ];
  for (const { path, bytes } of files) {
    const target = join(MODELS, step.folder, path);
    await mkdir(dirname(target), { recursive: true });
    await writeFile(target, bytes);
  }
  process.stdout.write(`${step.folder}: ${files.length} files\n`);
}

async function paperFiles(step: BringIn, models: readonly Model[]): Promise<DemoDocument[]> {
  switch (step.papers) {
    case 'datasheets':
      return datasheets(models, step.at, fileName);
    case 'specifications':
      return specifications(step.at);
    case 'lists':
      return lists(step.at);
    case 'terms':
      return terms(step.at);
    case undefined:
      return [];
  }
}

async function modelFiles(step: BringIn, models: readonly Model[]): Promise<DemoDocument[]> {
  const { folders = [], numbers = [], without = [] } = step;
  const wanted = models.filter(
    ({ number, folder }) =>
      (folders.includes(folder) || numbers.includes(number)) && !without.includes(number),
  );
  const pathOf = new Map<string, string>([
    ...models.map((model) => [model.number, pathOfModel(model)] as const),
    ...ELSEWHERE.map(
      (model) => [model.number, posix.join(model.folder, model.file ?? fileName(model, 'stp'))] as const,
    ),
  ]);
  const nameOf = new Map([...models, ...ELSEWHERE].map((model) => [model.number, model.name]));
  const files: DemoDocument[] = [];
  for (const model of wanted) {
    const path = pathOf.get(model.number) ?? '';
    const bytes =
      model.kind === 'part'
        ? await partFile(model, step.at)
        : assemblyFile(model, { path, pathOf, nameOf, at: step.at });
    files.push({ path, bytes });
  }
  return files;
}

/** Copies that a derivation made are called by their numbers alone. */
function pathOfModel(model: Model): string {
  return posix.join(
    model.folder,
    model.folder === 'Snow depth station' ? `${model.number}.stp` : fileName(model, 'stp'),
  );
}

async function partFile(model: PartModel, at: string): Promise<Uint8Array> {
  const shape = model.build();
  const volumeMm3 = measureVolume(shape);
  const step = new Uint8Array(
    await exportSTEP([{ shape, name: model.number, color: model.colour }]).arrayBuffer(),
  );
  const number = (name: string, value: number, unit: string): PropertyValue => ({
    name,
    kind: 'number',
    value: Number(value.toPrecision(6)),
    unit,
  });
  return annotateStepPart(step, {
    id: model.number,
    name: model.name,
    description: model.description,
    version: '',
    source: model.source,
    fileName: fileName(model, 'stp'),
    time: at,
    properties: [
      number('volume', volumeMm3, 'mm³'),
      number('surface', measureArea(shape), 'mm²'),
      { name: 'material', kind: 'text', text: model.material },
      number('mass', massOf(model, volumeMm3), 'kg'),
    ],
  });
}

function massOf({ densityKgM3 }: PartModel, volumeMm3: number): number {
  return volumeMm3 * 1e-9 * densityKgM3;
}

function assemblyFile(
  model: AssemblyModel,
  context: {
    path: string;
    pathOf: ReadonlyMap<string, string>;
    nameOf: ReadonlyMap<string, string>;
    at: string;
  },
): Uint8Array {
  const numbers = [...new Set(model.uses.map((use) => use.number))];
  const counts = new Map<string, number>();
  return writeStepAssembly({
    id: model.number,
    name: model.name,
    description: model.description,
    source: 'made',
    fileName: posix.basename(context.path),
    time: context.at,
    children: numbers.map((number) => ({
      id: number,
      name: context.nameOf.get(number) ?? number,
      locator: posix.relative(posix.dirname(context.path), context.pathOf.get(number) ?? ''),
    })),
    uses: model.uses.map(({ number, at, as, only = [] }) => {
      const count = (counts.get(number) ?? 0) + 1;
      counts.set(number, count);
      return {
        child: numbers.indexOf(number),
        name: as ?? `${number}_${count}`,
        placement: at,
        // A name of its own is a reference designator here.
        ...(as === undefined ? {} : { designator: as }),
        configurations: only,
      };
    }),
  });
}

function listOf(model: Model, byNumber: ReadonlyMap<string, Model>): string[][] {
  if (model.kind === 'part' || !LISTED.has(model.number)) return [];
  const counts = new Map<string, number>();
  for (const { number } of model.uses) counts.set(number, (counts.get(number) ?? 0) + 1);
  return [
    ['Pos.', 'Item no.', 'Name', 'Qty'],
    ...[...counts].map(([number, count], at) => [
      ...[String((at + 1) * 10), number, byNumber.get(number)?.name ?? '', String(count)],
    ]),
  ];
}

function drawingFiles(step: BringIn, models: readonly Model[]): DemoDocument[] {
  const wanted = models.filter(
    (model) =>
      (step.drawings?.includes(model.folder) || step.drawings?.includes(model.number)) &&
      !(model.kind === 'part' && model.source === 'bought'),
  );
  if (wanted.length === 0) return [];
  const byNumber = new Map(models.map((model) => [model.number, model]));
  const shapes = new Map<string, Shape3D>();
  return [
    { path: FRAME, bytes: new TextEncoder().encode(frameSheet('Fenmark Hydrometrics')) },
    ...wanted.map((model) => {
      const path = posix.join(model.folder, fileName(model, 'dxf'));
      const shape = shapeOf(model, { byNumber, shapes });
      const detail = model.kind === 'part' ? 'full' : 'coarse';
      const text = drawingSheet({
        views: {
          front: viewOf(shape, 'front', detail),
          top: viewOf(shape, 'top', detail),
          right: viewOf(shape, 'right', detail),
        },
        fields: {
          TITLE: model.name,
          DRAWING_NUMBER: `${model.number}-D`,
          PART_NUMBER: model.number,
          DRAWN_BY: PEOPLE.find(({ login }) => login === step.by)?.name ?? step.by,
          DATE: step.at.slice(0, 10),
          TOLERANCES: 'ISO 2768-mK',
          ...(model.kind === 'part'
            ? {
                MATERIAL: model.material,
                MASS: `${Number(massOf(model, measureVolume(shape as Shape3D)).toPrecision(3))} kg`,
              }
            : { MATERIAL: 'see parts', MASS: '' }),
        },
        list: listOf(model, byNumber),
        notes: [
          model.description,
          model.kind === 'part'
            ? 'Deburr all edges. Surface Ra 3.2 unless shown otherwise.'
            : 'Tighten bolts as in the mounting manual.',
        ],
        frame: posix.relative(posix.dirname(path), FRAME),
      });
      return { path, bytes: new TextEncoder().encode(text) };
    }),
  ];
}

interface Shapes {
  readonly byNumber: ReadonlyMap<string, Model>;
  /** Built once, however often they are placed. */
  readonly shapes: Map<string, Shape3D>;
}

/** A part's solid, or all solids of an assembly where they stand. Placed components of boards are left out: too fine. */
function shapeOf(model: Model, context: Shapes): AnyShape {
  const solids: { shape: Shape3D; at: Placement }[] = [];
  const collect = (of: Model, at: Placement): void => {
    if (of.folder === 'Electronic parts') return;
    if (of.kind === 'assembly') {
      for (const use of of.uses) {
        const used = context.byNumber.get(use.number);
        if (used) collect(used, multiply(at, use.at));
      }
      return;
    }
    const shape = context.shapes.get(of.number) ?? of.build();
    context.shapes.set(of.number, shape);
    solids.push({ shape, at });
  };
  collect(model, IDENTITY_PLACEMENT);
  const [only] = solids;
  return solids.length === 1 && only ? only.shape : placed(solids);
}

function fileName({ number, name }: { number: string; name: string }, ending: string): string {
  return `${number} ${name
    // `76 × 3` is told by its sign; all else that is no letter or figure only parts words.
    .replaceAll('×', 'x')
    .replaceAll('–', '-')
    .replace(/[^\p{L}\p{N}. -]/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .toLowerCase()}.${ending}`;
}
