/** Variants in the terminal: planned as a file, swapped and left out, asked for by wishes, carried over, taken apart and joined. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readStep } from '@stem-trace/formats';
import { EMPTY_RECIPE, type Recipe } from '@stem-trace/core/recipes';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readExchangeFile } from '../../../../packages/formats/src/testing/exchange-files.js';
import { runStem, type Outcome } from '../../../cli/src/stem.js';
import { terminalOf } from '../../../cli/src/terminal.js';
import { filesOf } from '../testing/random-trees.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let folder: string;
beforeAll(async () => {
  store = await TestStore.open(undefined, { worksInBackground: true });
  folder = mkdtempSync(join(tmpdir(), 'stem-trace-cli-'));
  await store.intake(
    filesOf({
      names: ['T-1', 'A-1', 'P-1', 'H-1'],
      uses: [
        [0, 1, 1],
        [1, 2, 4],
        [0, 3, 1],
      ],
    }),
    { place: '/cli' },
  );
  await store.intake(filesOf({ names: ['P-2'], uses: [] }), { place: '/cli/other' });
});
afterAll(async () => {
  await store.close();
  rmSync(folder, { recursive: true, force: true });
});

function stem(...args: readonly string[]): Promise<Outcome> {
  const around = { stdin: process.stdin, stdout: process.stdout, cwd: () => folder, once: () => process };
  const env = { STEM_URL: store.server.address, STEM_TOKEN: store.token, INIT_CWD: folder };
  return runStem(args, terminalOf({ ...around, env }));
}

async function json(...args: string[]): Promise<unknown> {
  const { code, out, err } = await stem(...args, '--json');
  expect({ code, err }).toEqual({ code: 0, err: '' });
  return JSON.parse(out);
}

const made = async (number: string): Promise<string[]> =>
  (await store.made(number)).rows.map((row) => `${row.level} ${row.number} ×${row.quantity}`);

it('a plan is written, changed by hand and carried out', async () => {
  const plan = (await json('plan', 'T-1', '--prefix', 'V-', '--place', '/cli/v')) as Record<string, unknown>;
  expect(plan).toMatchObject({ item: 'T-1', copy: 'none', renamed: { 'P-1': { number: 'V-P-1' } } });
  writeFileSync(
    join(folder, 'plan.json'),
    JSON.stringify({ ...plan, omit: ['H-1'], alsoCopy: ['A-1', 'P-1'] }),
  );
  expect(await json('derive', '--plan', join(folder, 'plan.json'), '--dry-run')).toMatchObject({
    variant: 'V-T-1',
    omitted: ['H-1'],
  });
  expect(await json('derive', '--plan', join(folder, 'plan.json'))).toMatchObject({
    variant: 'V-T-1',
    proof: { dangling: 0, leaking: 0 },
  });
  expect(await made('V-T-1')).toEqual(['1 V-A-1 ×1', '2 V-P-1 ×4']);
  expect((await stem('derive', '--plan', 'nowhere.json')).err).toMatch(/nowhere.json cannot be read/);
});

it('parts are swapped, left out, and decided about in single places', async () => {
  const use = ['--use', 'T-1 > A-1 > P-1:2,4=swap P-2', '--use', 'A-1 > P-1:1=omit'];
  expect(
    await json('derive', 'T-1', '--prefix', 'W-', '--place', '/cli/w', '--omit', 'H-1', ...use),
  ).toMatchObject({
    ...{ variant: 'W-T-1', omitted: ['H-1'], proof: { dangling: 0, leaking: 0 } },
  });
  expect((await made('W-T-1')).sort()).toEqual(['1 W-A-1 ×1', '2 P-2 ×2', '2 W-P-1 ×1']);
  expect((await stem('derive', 'T-1', '--use', 'A-1=melt')).err).toMatch(/write "A > B=share"/);
  expect((await stem('derive', 'T-1', '--swap', 'P-1=NOPE')).err).toMatch(/NOPE/);
});

it('wishes become variants, one for each row', async () => {
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    of: 'T-1',
    wishes: [
      {
        name: 'size',
        label: '',
        kind: 'choice',
        unit: '',
        least: null,
        most: null,
        choices: ['S', 'L'],
        otherwise: '',
      },
    ],
    rules: [
      { name: 'Large', when: 'size == "L"', then: { do: 'swap', item: 'P-1', to: 'P-2' } },
      { name: 'Number', when: '', then: { do: 'number', item: '', pattern: 'X-{size}' } },
    ],
    names: [{ kind: 'put', of: 'numbers', at: 'start', text: 'X{size}-' }],
    place: '/cli/x/{size}',
  };
  await store.json('POST', '/api/recipes', { item: 'T-1', number: 'R-1', name: 'Sizes' });
  await store.json('PUT', '/api/recipe', { item: 'R-1', version: 'A/1', recipe });
  writeFileSync(join(folder, 'sheets.csv'), 'for;size\nOne;S\nTwo;L\nThree;M\n');
  expect(await json('wish', 'R-1', 'sheets.csv', '--dry-run')).toMatchObject({
    plans: [
      { problems: [] },
      { said: [{ rule: 'Large' }, { rule: 'Number' }] },
      { problems: [{ name: 'size' }] },
    ],
  });
  const { sheets } = (await json('wish', 'R-1', 'sheets.csv')) as {
    sheets: { for: string; state: string; variant: string | null }[];
  };
  expect(sheets.map(({ for: of, state, variant }) => [of, state, variant])).toEqual([
    ['One', 'made', 'X-S'],
    ['Two', 'made', 'X-L'],
    ['Three', 'failed', null],
  ]);
});

it('nothing is carried over where nothing changed; and only into what was derived', async () => {
  expect(await json('carry', 'V-T-1', '--dry-run')).toMatchObject({ variant: 'V-T-1', rows: [] });
  expect(await json('carry', 'V-T-1')).toEqual({ variant: 'V-T-1', done: [], left: [] });
  expect((await stem('carry', 'T-1')).err).toMatch(/was not derived/);
});

it('a file is taken apart, and joined again', async () => {
  await store.intake(new Map([['as1-oc-214.stp', readExchangeFile('as1-oc-214.stp')]]), {
    place: '/cli/whole',
  });
  await store.json('POST', '/api/holds', { items: ['as1'], reason: '' });
  expect(await json('split', 'as1', '--dry-run')).toMatchObject({ versions: 9, refused: [] });
  expect(await json('split', 'as1')).toMatchObject({ versions: 9, items: 0, refused: [], problems: [] });
  expect((await stem('split', 'as1')).err).toMatch(/holds nothing else/);
  await json('join', 'as1', '--to', 'one.stp');
  const { products } = readStep(readFileSync(join(folder, 'one.stp')), 'one.stp');
  expect(products.filter(({ locator }) => locator !== undefined)).toEqual([]);
  expect(products.length).toBe(9);
  expect((await stem('join', 'as1', '--to', 'one.stp')).err).toMatch(/is there already/);
});

it('an item is begun with another', async () => {
  const { code, out } = await stem('begin', 'P-2', '--name', 'Left cheek', '--place', '/cli/begun');
  expect([code, out]).toEqual([0, 'P-2-2 A/1 is yours.\nstem fetch P-2-2 --to DIR brings its files.\n']);
  expect(await json('begin', 'P-2', '--place', '/cli/begun')).toEqual({
    ...{ number: 'P-2-3', version: 'A/1', made: ['P-2-3'] },
  });
  expect(await json('holds')).toMatchObject({
    rows: expect.arrayContaining([expect.objectContaining({ number: 'P-2-2' })]) as unknown,
  });
});
