/** Deriving from what a release froze: the variant stands on those versions, though the store has moved on. */
import type { BaselineRow, CompareAnswer, StepAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let checker: Readonly<Record<string, string>>;
beforeAll(async () => {
  store = await TestStore.open();
  checker = { Authorization: `Bearer ${await store.tokenFor('base-checker', 'checker')}` };
});
afterAll(() => store.close());

const part = (id: string, description = ''): [string, Uint8Array] => [`${id}.stp`, stepFile({ id, name: description || id })]; // prettier-ignore
const using = (id: string, ...uses: string[]): [string, Uint8Array] => [
  `${id}.stp`,
  stepFile({ id, uses: uses.map((of) => ({ id: of, locator: `${of}.stp` })) }),
];

async function release(items: readonly string[]): Promise<void> {
  const steps = (step: string, headers = {}): Promise<Response> =>
    store.call('POST', '/api/steps', { items, step, reason: 'Series', below: true }, headers);
  expect(((await (await steps('ask for check')).json()) as StepAnswer).sheet).toBeTruthy();
  await steps('release', checker);
}

async function changed(id: string, to: string): Promise<void> {
  await store.call('POST', '/api/revise', { items: [id], reason: 'changed' });
  await store.intake(new Map([part(id, to)]), { place: '/base' });
}

const versionsIn = async (item: string): Promise<Record<string, string | null>> =>
  Object.fromEntries((await store.made(item)).rows.map(({ number, version }) => [number, version]));

it('copies and shares the versions of the baseline, wherever files have to be changed or not', async () => {
  // The assembly records an older screw than what is released with it: a new version came before the release.
  await store.intake(new Map([part('SCREW'), part('LID'), using('BOX', 'SCREW', 'LID'), using('TOP', 'BOX')]), { place: '/base' }); // prettier-ignore
  await store.call('POST', '/api/holds', { items: ['SCREW'], reason: 'x' });
  await store.intake(new Map([part('SCREW', 'longer')]), { place: '/base' });
  await store.call('POST', '/api/holds/let-go', { items: ['SCREW'] });
  await release(['TOP']);
  const [baseline] = await store.json<BaselineRow[]>('GET', '/api/baselines?item=TOP');
  await changed('LID', 'thicker');
  await changed('SCREW', 'longest');
  expect(await versionsIn('TOP')).toEqual({ BOX: 'A/1', SCREW: 'A/1', LID: 'A/1' });

  // BOX is copied with files of its own name, and with nothing that its file would have to say otherwise.
  for (const [prefix, alsoCopy] of [
    ['V-', ['BOX', 'LID']],
    ['W-', ['BOX']],
    ['X-', []],
  ] as const) {
    // prettier-ignore
    const { proof } = await store.derive({
      ...{ item: 'TOP', baseline: baseline?.id ?? '', copy: 'none', alsoCopy: [...alsoCopy], prefix },
      place: `/base/${prefix}`,
    });
    expect(proof.faults, prefix).toEqual([]);
    const made = await versionsIn(`${prefix}TOP`);
    const isIn = (number: string): string => ((alsoCopy as readonly string[]).includes(number) ? prefix : '');
    // What was released with it, not what was recorded, and not what has come since.
    expect(made[`${isIn('SCREW')}SCREW`], prefix).toBe(isIn('BOX') === '' ? 'A/1' : 'A/2');
    expect(made[`${isIn('LID')}LID`], prefix).toBe('A/1');
    const lens = encodeURIComponent(`baseline ${baseline?.id}`);
    if (alsoCopy.length > 0) {
      const { counts } = await store.json<CompareAnswer>(
        'GET',
        `/api/compare?from=TOP&to=${prefix}TOP&lens=recorded&fromLens=${lens}`,
      );
      expect(counts, prefix).toMatchObject({ added: 0, removed: 0, changed: 0 });
    }
  }
});

it('refuses a version that the baseline does not hold, and a baseline that there is not', async () => {
  const [baseline] = await store.json<BaselineRow[]>('GET', '/api/baselines?item=TOP');
  const derive = (item: string, id: string): Promise<unknown> =>
    store.json('POST', '/api/derive', { item, baseline: id, prefix: 'N-', place: '/base/n' });
  await expect(derive('LID@B/1', baseline?.id ?? '')).rejects.toThrow(/LID B\/\d is not in baseline/);
  await expect(derive('TOP', '999999')).rejects.toThrow(/no baseline 999999/);
  await expect(derive('TOP', 'x')).rejects.toThrow(/must be the id of a baseline/);
});
