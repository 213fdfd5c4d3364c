/** Steps of the lifecycle over HTTP: who may take which from where, all of them or none, and what follows from it. */
import type {
  AlignAnswer,
  CustodyAnswer,
  ItemView,
  CheckRow,
  NoticesAnswer,
  StepPreview,
  Role,
  StructureAnswer,
} from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';

const STEPS = ['ask for check', 'take back', 'release', 'send back', 'withdraw'] as const;
type Step = (typeof STEPS)[number];

/** Said here once more, on purpose: who may take a step, from which states, and where it leads. */
const RULES: Readonly<Record<Step, { roles: readonly Role[]; from: readonly string[]; to: string }>> = {
  'ask for check': { roles: ['engineer', 'administrator'], from: ['draft'], to: 'in check' },
  'take back': { roles: ['engineer', 'administrator'], from: ['in check'], to: 'draft' },
  release: { roles: ['checker', 'administrator'], from: ['in check'], to: 'released' },
  'send back': { roles: ['checker', 'administrator'], from: ['in check'], to: 'draft' },
  withdraw: { roles: ['administrator'], from: ['draft', 'released'], to: 'withdrawn' },
};

let store: TestStore;
const tokens = new Map<Role, string>();
beforeAll(async () => {
  store = await TestStore.open();
  for (const role of ['engineer', 'checker', 'planner', 'viewer', 'administrator'] as const)
    tokens.set(role, await store.tokenFor(`l-${role}`, role));
});
afterAll(() => store.close());

let made = 0;
async function newItems(count: number): Promise<string[]> {
  const ids = Array.from({ length: count }, () => `L${++made}`);
  await store.intake(new Map(ids.map((id) => [`${id}.stp`, stepFile({ id })])), { place: '/steps' });
  return ids;
}

async function newItem(): Promise<string> {
  return (await newItems(1))[0] ?? '';
}

async function step(
  role: Role,
  items: readonly string[],
  name: Step,
  reason = 'because',
): Promise<CustodyAnswer> {
  const headers = { Authorization: `Bearer ${tokens.get(role)}` };
  const response = await store.call('POST', '/api/steps', { items, step: name, reason }, headers);
  return (await response.json()) as CustodyAnswer;
}

async function as<T>(role: Role, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(role)}` });
  return (await response.json()) as T;
}

const view = (item: string): Promise<ItemView> => store.json('GET', `/api/item?item=${item}`);

/** Brings an item into a state. */
const WAYS: Readonly<Record<string, readonly Step[]>> = {
  draft: [],
  'in check': ['ask for check'],
  released: ['ask for check', 'release'],
  withdrawn: ['withdraw'],
};

describe('a step', () => {
  it.each(Object.keys(WAYS))('from %s is for those who may take it there', async (state) => {
    const items = await newItems(STEPS.length * tokens.size);
    for (const before of WAYS[state] ?? []) await step('administrator', items, before);
    for (const name of STEPS)
      for (const role of tokens.keys()) {
        const item = items.pop() ?? '';
        const { roles, from, to } = RULES[name];
        // An administrator brought it there, so that it is not the engineer's to take back.
        const isOthers = name === 'take back' && role !== 'administrator';
        const isAllowed = roles.includes(role) && from.includes(state) && !isOthers;
        const answer = await step(role, [item], name).catch((error: unknown) => error);
        expect([name, role, answer instanceof Refused]).toEqual([name, role, !isAllowed]);
        expect([name, role, (await view(item)).state]).toEqual([name, role, isAllowed ? to : state]);
      }
  });

  it('is taken by all or by none, and says what is in the way of which', async () => {
    const [first, second, held] = [await newItem(), await newItem(), await newItem()];
    await store.json('POST', '/api/holds', { items: [held], reason: '' });
    await step('engineer', [second], 'ask for check');
    await expect(step('engineer', [first, second, held], 'ask for check')).rejects.toMatchObject({
      status: 409,
      problem: {
        code: 'STEP_REFUSED',
        details: [`${second}: it is in check, not draft`, `${held}: ada holds it; it must be let go first`],
      },
    });
    expect((await view(first)).state).toBe('draft');
  });

  it('needs a reason where that is asked for, and tells the checkers', async () => {
    const item = await newItem();
    await step('engineer', [item], 'ask for check');
    await expect(step('checker', [item], 'send back', ' ')).rejects.toThrow(/a reason is needed/);
    const headers = { Authorization: `Bearer ${tokens.get('checker')}` };
    const notices = await store.call('GET', '/api/notices', undefined, headers);
    const { rows } = (await notices.json()) as NoticesAnswer;
    expect(rows.map(({ number }) => number)).toContain(item);
  });
});

describe('whoever sent something for checking', () => {
  it('is told what became of it and why, without watching, and not what others sent', async () => {
    const [mine, others] = [await newItem(), await newItem()];
    await step('engineer', [mine], 'ask for check');
    await step('administrator', [others], 'ask for check');
    await step('checker', [mine], 'send back', 'wall too thin');
    await step('checker', [others], 'release');
    const told = async (): Promise<readonly string[]> => {
      const headers = { Authorization: `Bearer ${tokens.get('engineer')}` };
      const response = await store.call('GET', '/api/notices', undefined, headers);
      return ((await response.json()) as NoticesAnswer).rows.map(({ says }) => says);
    };
    expect((await told())[0]).toBe(`l-checker sent ${mine} A/1 back: wall too thin`);
    expect((await told()).filter((says) => says.includes(others))).toEqual([]);
    await step('engineer', [mine], 'ask for check');
    await step('checker', [mine], 'release', '');
    expect((await told())[0]).toContain(`released ${mine} A/1`);
  });
});

describe('what was sent for checking', () => {
  it('waits for those who may release it, the longest first, and for nobody else', async () => {
    const [first, second] = [await newItem(), await newItem()];
    await step('engineer', [first], 'ask for check', 'new tube');
    await step('administrator', [second], 'ask for check', '');
    const waiting = (await as<CheckRow[]>('checker', 'GET', '/api/checks')).filter(({ number }) =>
      [first, second].includes(number),
    );
    expect(waiting).toEqual([
      expect.objectContaining({ number: first, version: 'A/1', sentBy: 'l-engineer', reason: 'new tube' }),
      expect.objectContaining({ number: second, sentBy: 'l-administrator', reason: '' }),
    ]);
    expect(await as<CheckRow[]>('engineer', 'GET', '/api/checks')).toEqual([]);
    await step('checker', [first, second], 'release');
    const left = await as<CheckRow[]>('checker', 'GET', '/api/checks');
    expect(left.map(({ number }) => number)).not.toContain(first);
  });

  it('is taken back by whoever sent it, or an administrator, and by nobody else', async () => {
    const [mine, others] = [await newItem(), await newItem()];
    await step('engineer', [mine], 'ask for check');
    await step('administrator', [others], 'ask for check');
    await expect(step('engineer', [others], 'take back')).rejects.toThrow(
      /only l-administrator, who sent it there, or administrator may take back/,
    );
    await expect(step('checker', [mine], 'take back')).rejects.toThrow(
      /only l-engineer, who sent it there, or administrator may take back/,
    );
    await step('engineer', [mine], 'take back');
    expect((await view(mine)).state).toBe('draft');
    await step('administrator', [others], 'take back');
    const { rows } = await as<NoticesAnswer>('checker', 'GET', '/api/notices');
    expect(rows.map(({ says }) => says)).toContain(`l-engineer took ${mine} A/1 back from checking: because`);
  });
});

describe('before a step is taken', () => {
  it('it is said what would be refused, what below was never released, and how many record it', async () => {
    const [part, done] = [await newItem(), await newItem()];
    for (const name of ['ask for check', 'release'] as const) await step('administrator', [done], name);
    const id = `U${++made}`;
    const uses = [part, done].map((number) => ({ id: number, locator: `${number}.stp` }));
    await store.intake(new Map([[`${id}.stp`, stepFile({ id, uses })]]), { place: '/steps' });
    const preview = (role: Role, items: readonly string[], name: Step): Promise<StepPreview> =>
      as(role, 'POST', '/api/steps/preview', { items, step: name });
    await step('engineer', [id], 'ask for check');
    expect(await preview('checker', [id], 'release')).toEqual({
      items: [{ number: id, version: 'A/1', shown: '' }],
      refused: [`${id}: ${id} uses ${part} A/1, which is not released`],
      signatures: 0,
      drafts: [{ number: part, name: part, version: 'A/1', state: 'draft' }],
      users: 0,
    });
    expect(await preview('checker', [part], 'release')).toMatchObject({
      refused: [`${part}: it is draft, not in check`],
      users: 1,
    });
    expect((await view(id)).state).toBe('in check');
  });
});

describe('a release', () => {
  it('takes the place of the one before, and is what the lens Released picks', async () => {
    const part = await newItem();
    const id = `U${++made}`;
    const asm = stepFile({ id, uses: [{ id: part, locator: `${part}.stp` }] });
    await store.intake(new Map([[`${id}.stp`, asm]]), { place: '/steps' });
    const picked = async (): Promise<string | null | undefined> => {
      const answer = await store.json<StructureAnswer>('GET', `/api/made?item=${id}@A/1&lens=released`);
      return answer.rows[0]?.version;
    };
    for (const name of ['ask for check', 'release'] as const) await step('administrator', [part], name);
    expect(await picked()).toBe('A/1');
    await store.json('POST', '/api/revise', { items: [part] });
    expect(await picked()).toBe('A/1');
    await store.json('POST', '/api/holds/let-go', { items: [part] });
    for (const name of ['ask for check', 'release'] as const) await step('administrator', [part], name);
    expect(await picked()).toBe('B/1');
    const { versions } = await view(part);
    expect(versions.map(({ version, state }) => `${version} ${state}`)).toEqual([
      'B/1 released',
      'A/1 superseded',
    ]);
    await expect(step('administrator', [part], 'withdraw')).resolves.toMatchObject({ refused: [] });
  });
});

describe('aligning', () => {
  const align = async (path: string, items: readonly string[], start: string): Promise<AlignAnswer> => {
    const headers = { Authorization: `Bearer ${tokens.get('checker')}` };
    return (await (await store.call('POST', path, { items, start }, headers)).json()) as AlignAnswer;
  };

  it('shows what would change, then changes it, each old code in the trail', async () => {
    const [one, other] = [await newItem(), await newItem()];
    const before = await align('/api/align/preview', [one, other], 'C');
    expect(before.rows.map(({ number, from, to }) => `${number} ${from} ${to}`)).toEqual([
      `${one} A C`,
      `${other} A C`,
    ]);
    expect((await view(one)).version).toBe('A/1');
    expect((await align('/api/align', [one, other], 'C')).rows).toHaveLength(2);
    expect([(await view(one)).version, (await view(other)).version]).toEqual(['C/1', 'C/1']);
    expect((await align('/api/align/preview', [one, other], 'C')).unchanged.toSorted()).toEqual(
      [one, other].sort(),
    );
  });

  it('takes the codes that a property states, and leaves what disagrees as it is, with why', async () => {
    const [says, silent, odd] = [await newItem(), await newItem(), await newItem()];
    for (const [item, code] of [
      [says, 'd'],
      [odd, '1.2'],
    ] as const) {
      await store.json('POST', '/api/holds', { items: [item], reason: '' });
      await store.json('POST', '/api/items/properties', {
        items: [item],
        set: { revision: code },
        comment: '',
      });
      await store.json('POST', '/api/holds/let-go', { items: [item] });
    }
    const headers = { Authorization: `Bearer ${tokens.get('checker')}` };
    const taken = async (path: string): Promise<AlignAnswer> => {
      const body = { items: [says, silent, odd], start: '', property: 'Revision' };
      return (await (await store.call('POST', path, body, headers)).json()) as AlignAnswer;
    };
    const before = await taken('/api/align/preview');
    expect(before.rows.map(({ number, from, to }) => [number, from, to])).toEqual([[says, 'A', 'D']]);
    expect(before.unchanged).toEqual([silent]);
    expect(before.disagrees).toEqual([
      { number: odd, says: 'A says 1.2, which is no revision of the scheme' },
    ]);
    await taken('/api/align');
    expect([(await view(says)).version, (await view(odd)).version]).toEqual(['D/2', 'A/2']);
    expect((await taken('/api/align')).rows).toEqual([]);
  });

  it('is refused to a code that is none, and to those who may not release', async () => {
    const item = await newItem();
    await expect(align('/api/align', [item], '?!')).rejects.toThrow(/no revision of the scheme/);
    await expect(store.json('POST', '/api/align', { items: [item], start: 'B' })).rejects.toMatchObject({
      status: 403,
    });
  });
});
