/**
 * Writes the demo's design files, one folder a check-in, and history.json beside them. Run by hand when shapes or
 * history change (`npm run generate -w demo`); the files are committed, so that a start needs no geometry kernel.
 */
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { dirname, join, posix } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { PropertyValue } from '@stem-trace/core';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import { exportSTEP, measureArea, measureVolume } from 'replicad';
import { HISTORY, PEOPLE, type HistoryStep } from './history.js';
import { loadKernel } from './kernel.js';
import { assemblies, parts, type AssemblyModel, type PartModel } from './station.js';

const MODELS = join(dirname(fileURLToPath(import.meta.url)), '../models');

/** A model that its supplier has not sent yet: referred to, but in no folder. */
const MISSING = { number: 'FM-9501', name: 'Surge arrester', folder: 'Standard parts' };

await loadKernel();
await rm(MODELS, { recursive: true, force: true });
for (const step of HISTORY) await writeStep(step);
const history = HISTORY.map(({ folder, at, by, comment, release }) => ({
  folder,
  at,
  by,
  comment,
  release: release ?? [],
}));
await writeFile(
  join(MODELS, 'history.json'),
  `${JSON.stringify({ place: '/Fenmark', people: PEOPLE, history }, null, 2)}\n`,
);

async function writeStep(step: HistoryStep): Promise<void> {
  const models = [...parts(step.stage), ...assemblies(step.stage)];
  const wanted = models.filter(
    ({ number }) => (step.only?.includes(number) ?? true) && !step.without?.includes(number),
  );
  const pathOf = new Map(
    [...models, MISSING].map((model) => [model.number, posix.join(model.folder, fileName(model))]),
  );
  const nameOf = new Map([...models, MISSING].map((model) => [model.number, model.name]));
  for (const model of wanted) {
    const path = pathOf.get(model.number) ?? '';
    const bytes =
      model.kind === 'part'
        ? await partFile(model, step.at)
        : assemblyFile(model, { path, pathOf, nameOf, at: step.at });
    const target = join(MODELS, step.folder, path);
    await mkdir(dirname(target), { recursive: true });
    await writeFile(target, bytes);
  }
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
    fileName: fileName(model),
    time: at,
    properties: [
      number('volume', volumeMm3, 'mm³'),
      number('surface', measureArea(shape), 'mm²'),
      { name: 'material', kind: 'text', text: model.material },
      number('mass', volumeMm3 * 1e-9 * model.densityKgM3, 'kg'),
    ],
  });
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
    fileName: fileName(model),
    time: context.at,
    children: numbers.map((number) => ({
      id: number,
      name: context.nameOf.get(number) ?? number,
      locator: posix.relative(posix.dirname(context.path), context.pathOf.get(number) ?? ''),
    })),
    uses: model.uses.map(({ number, at }) => {
      const count = (counts.get(number) ?? 0) + 1;
      counts.set(number, count);
      return { child: numbers.indexOf(number), name: `${number}_${count}`, placement: at };
    }),
  });
}

function fileName({ number, name }: { number: string; name: string }): string {
  return `${number} ${name
    .replace(/[^\p{L}\p{N}. -]/gu, 'x')
    .replace(/\s+/g, ' ')
    .toLowerCase()}.stp`;
}
