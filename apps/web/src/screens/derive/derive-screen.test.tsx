// @vitest-environment happy-dom
import {
  PLAIN_DERIVATION,
  type DerivePreview,
  type DeriveRequest,
  type PlanDraft,
} from '@stem-trace/contract';
import { applyRules, type PlanLine } from '@stem-trace/core';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { show, type Answers, type Sent, type Shown } from '../../testing/show.js';
import { DeriveScreen } from './derive-screen.js';

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const NUMBERS = ['FM-1000', 'FM-2100', 'FM-3101'];

/** Names as the server makes them, of rules and what was said by hand. */
function previewOf({ body }: Sent): DerivePreview {
  const { rules, renamed, share } = body as DeriveRequest;
  const lines = NUMBERS.map((number): PlanLine => {
    const newNumber = renamed[number]?.number ?? applyRules(number, rules, 'numbers');
    // What is shared takes along what it is made of.
    const isShared = share.some((decided) => NUMBERS.indexOf(decided) <= NUMBERS.indexOf(number));
    const clash = newNumber === number ? { of: 'name' as const, says: 'needs a new number' } : null;
    return {
      ...{
        key: number,
        number,
        name: `Name of ${number}`,
        kind: 'part',
        version: 'A/1',
        reason: '',
        forced: false,
      },
      ...{ decision: isShared ? 'share' : 'copy', newNumber: isShared ? null : newNumber },
      ...{ newName: isShared ? null : 'same', fileName: null, to: null, clash: isShared ? null : clash },
    };
  });
  return {
    origin: { number: 'FM-1000', name: 'Station', version: 'C/1' },
    ...{ place: '/Projects', lines, ready: true },
    ...{ hindrances: [], configurations: [] },
    tree: lines.map(({ number, decision }, level) => ({
      ...{ level, number, quantity: 1, gap: false, decision, own: false },
      ...{ key: decision === 'copy' ? number : null, to: null, occurrences: null },
    })),
  };
}

function derive(answers: Answers = {}): Shown {
  return show(<DeriveScreen />, {
    address: '/derive?item=FM-1000',
    answers: {
      '/api/derive/proposal': { says: '', rules: [], scheme: '', last: null },
      '/api/derive/preview': previewOf,
      // Also something that is not in the plan.
      '/api/items': { total: 2, hidden: 0, near: [], rows: [{ number: 'FM-3101' }, { number: 'FM-9999' }] },
      ...answers,
    },
  });
}

const valueOf = (number: string): string =>
  screen.getByRole<HTMLInputElement>('textbox', { name: `New number for ${number}` }).value;

async function edit(user: Shown['user'], text: string): Promise<void> {
  const field = await screen.findByRole('textbox', { name: 'New number for FM-1000' });
  await user.clear(field);
  await user.type(field, `${text}{Enter}`);
}

it('one number is edited and the others follow; the reading is said, narrowed and refused by keys', async () => {
  const { user } = derive();
  expect(await screen.findByText('3 copies need numbers')).toBeDefined();
  await edit(user, 'FT-1000');
  expect(await screen.findByText(/“FM” at the start becomes “FT”\. Fits/)).toBeDefined();
  await vi.waitFor(() => expect(valueOf('FM-3101')).toBe('FT-3101'));
  // Escape keeps it for its line alone.
  await user.keyboard('{Escape}');
  await vi.waitFor(() => expect(valueOf('FM-3101')).toBe('FM-3101'));
  expect(valueOf('FM-1000')).toBe('FT-1000');
  expect(screen.getByText('2 copies need numbers')).toBeDefined();
});

it('a plan outlives its view', async () => {
  const first = derive();
  await edit(first.user, 'FT-1000');
  await screen.findByText(/Understood: “FM”/);
  await first.user.keyboard('{Enter}');
  cleanup();
  derive();
  await vi.waitFor(() => expect(valueOf('FM-2100')).toBe('FT-2100'));
  expect(screen.getByRole('group', { name: 'Rule 1' }).textContent).toContain('becomes “FT”');
});

it('rules are moved, edited and removed', async () => {
  const { user } = derive();
  await edit(user, 'FT-1000');
  await user.keyboard('{Enter}');
  await user.click(await screen.findByRole('button', { name: 'Edit rule 1' }));
  const becomes = screen.getByRole('textbox', { name: 'Becomes' });
  await user.clear(becomes);
  await user.type(becomes, 'FV');
  await user.click(screen.getByRole('button', { name: 'Save' }));
  await vi.waitFor(() => expect(valueOf('FM-2100')).toBe('FV-2100'));
  await user.click(screen.getByRole('button', { name: 'Remove rule 1' }));
  await vi.waitFor(() => expect(valueOf('FM-2100')).toBe('FM-2100'));
});

it('a copy below something shared takes the share back, and says so', async () => {
  const { user } = derive();
  const choose = async (number: string, decision: string): Promise<void> => {
    const choices = await screen.findByRole('radiogroup', { name: `Decision for ${number}` });
    await user.click(within(choices).getByRole('radio', { name: decision }));
  };
  await choose('FM-2100', 'Share');
  await screen.findByText(/1 copied, 2 shared/);
  await choose('FM-3101', 'Copy');
  expect(await screen.findByText('FM-2100 contains FM-3101: no longer shared.')).toBeDefined();
});

it('what a search finds in the plan is decided at once, undone and done again', async () => {
  const { user, sentTo } = derive();
  await user.type(await screen.findByRole('textbox', { name: 'Lines that fit' }), 'class = fastener');
  await user.click(screen.getByRole('button', { name: 'Share them' }));
  await screen.findByText(/2 copied, 1 shared/);
  expect(sentTo('/api/items')[0]?.search.get('words')).toBe('(class = fastener) used in FM-1000');
  await user.click(screen.getByRole('button', { name: 'Undo' }));
  await screen.findByText(/3 copied, 0 shared/);
  await user.click(screen.getByRole('button', { name: 'Redo' }));
  await screen.findByText(/2 copied, 1 shared/);
});

it('lines are selected and decided together, by keys alone', async () => {
  const { user } = derive();
  const plan = await screen.findByRole('treegrid', { name: /^What the variant shares/ });
  plan.focus();
  await user.keyboard('{ArrowDown} {ArrowDown} ');
  expect(screen.getByText('2 selected')).toBeDefined();
  await user.keyboard('s');
  await screen.findByText(/1 copied, 2 shared/);
  expect(screen.getByText('2 lines shared.')).toBeDefined();
  expect(screen.queryByText('2 selected')).toBeNull();
  await user.keyboard('{Control>}z{/Control}');
  await screen.findByText(/3 copied, 0 shared/);
});

it('what is decided while a search is under way is kept when its answer comes', async () => {
  let answer: (found: unknown) => void = () => undefined;
  const { user, sentTo } = derive({ '/api/items': () => new Promise((resolve) => (answer = resolve)) });
  await user.type(await screen.findByRole('textbox', { name: 'Lines that fit' }), 'tube');
  await user.click(screen.getByRole('button', { name: 'Share them' }));
  const plan = screen.getByRole('treegrid', { name: /^What the variant shares/ });
  plan.focus();
  await user.keyboard('{ArrowDown}{ArrowDown}s');
  await screen.findByText(/2 copied, 1 shared/);
  answer({ total: 1, hidden: 0, near: [], rows: [{ number: 'FM-2100' }] });
  await screen.findByText(/1 copied, 2 shared/);
  const last = sentTo('/api/derive/preview').at(-1)?.body as DeriveRequest;
  expect([...last.share].sort()).toEqual(['FM-2100', 'FM-3101']);
});

it('lines of a level are decided at once, without a search', async () => {
  const { user, sentTo } = derive();
  const words = await screen.findByRole('textbox', { name: 'Lines that fit' });
  await user.type(words, 'level >= 2');
  await user.click(screen.getByRole('button', { name: 'Share them' }));
  await screen.findByText(/2 copied, 1 shared/);
  await user.clear(words);
  await user.type(words, 'level = 7');
  await user.click(screen.getByRole('button', { name: 'Share them' }));
  expect(await screen.findByText('The plan has nothing at level = 7.')).toBeDefined();
  expect(sentTo('/api/items')).toEqual([]);
});

it('what was decided for the last variant is decided again, as far as the plan has it', async () => {
  const request = { ...PLAIN_DERIVATION, item: 'FM-1000', share: ['FM-3101', 'FM-7'], omit: ['FM-8'] };
  const { user, sentTo } = derive({
    '/api/derive/proposal': { says: '', rules: [], scheme: '', last: { variant: 'FT-1000', request } },
  });
  await user.click(await screen.findByRole('button', { name: 'Begin again' }));
  await user.click(screen.getByRole('menuitem', { name: 'What was decided for FT-1000' }));
  await screen.findByText(/2 copied, 1 shared/);
  expect(sentTo('/api/derive/preview').at(-1)?.body).toMatchObject({ share: ['FM-3101'], omit: [] });
  await user.click(screen.getByRole('button', { name: 'Undo' }));
  await screen.findByText(/3 copied, 0 shared/);
});

it('a plan is kept under a name, and another is gone on with', async () => {
  const plans: PlanDraft[] = [];
  const colleague: PlanDraft = {
    ...{ id: '4', name: 'Coast', by: 'Ben Aalto', isMine: false, isShared: true, isBehind: true },
    ...{ at: '2031-03-01T10:00:00Z', version: 'C/1' },
  };
  const { user, sentTo } = derive({
    '/api/plans': ({ method, body }: Sent) => {
      if (method === 'GET') return [...plans, colleague];
      const { name, isShared } = body as { name: string; isShared: boolean };
      const kept = { ...colleague, id: '5', name, isShared, isMine: true, isBehind: false };
      plans.push(kept);
      return kept;
    },
    '/api/plans/remove': () => {
      plans.pop();
      return new Response(null, { status: 204 });
    },
    '/api/plan': { ...PLAIN_DERIVATION, item: 'FM-1000', share: ['FM-2100'] },
  });
  await user.click(await screen.findByRole('button', { name: 'Plans …' }));
  const dialog = within(await screen.findByRole('dialog'));
  expect(dialog.getByRole('button', { name: 'Keep' }).hasAttribute('disabled')).toBe(true);
  await user.type(dialog.getByRole('textbox', { name: 'Name of the plan' }), ' River ');
  await user.click(dialog.getByRole('checkbox', { name: 'Shared' }));
  await user.click(dialog.getByRole('button', { name: 'Keep' }));
  const mine = await dialog.findByRole('button', { name: 'Take River away' });
  expect(sentTo('/api/plans').find(({ method }) => method === 'PUT')?.body).toMatchObject({
    ...{ item: 'FM-1000', name: 'River', isShared: true },
    request: { item: 'FM-1000', copy: 'proposed' },
  });
  // It is gone only when one says so once more.
  await user.click(mine);
  await user.click(dialog.getByRole('button', { name: 'Keep it' }));
  expect(sentTo('/api/plans/remove')).toEqual([]);
  await user.click(dialog.getByRole('button', { name: 'Take River away' }));
  await user.click(dialog.getByRole('button', { name: 'Throw River away' }));
  await vi.waitFor(() => expect(dialog.queryByText('River')).toBeNull());
  expect(sentTo('/api/plans/remove')[0]?.body).toEqual({ id: '5' });
  // Another’s cannot be taken away; it says that it is behind.
  expect(dialog.queryByRole('button', { name: 'Take Coast away' })).toBeNull();
  expect(dialog.getByText('behind')).toBeDefined();
  await user.click(dialog.getByRole('button', { name: 'Go on with it' }));
  await screen.findByText(/1 copied, 2 shared/);
  expect(screen.queryByRole('dialog')).toBeNull();
});
