// @vitest-environment happy-dom
import type { RecipeView, WishPlan, WishSheetRow } from '@stem-trace/contract';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { show, type Answers, type Sent } from '../../testing/show.js';
import { asKind, fieldText, moved, wishesIn, wishesText, withField } from './recipe-edit.js';
import { readSheets } from './paste-sheets-dialog.js';
import { WishScreen } from './wish-screen.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const bare = { unit: '', least: null, most: null, choices: [], otherwise: '' };
const VIEW: RecipeView = {
  ...{ number: 'FR-1', name: 'Stations', version: 'A/2', state: 'draft', heldBy: null, problems: [] },
  recipe: {
    ...{ format: 'stem-trace recipe', formatVersion: 1, of: 'FM-1', names: [], place: '' },
    ...{ sendsOn: false, examples: [] },
    wishes: [
      {
        ...bare,
        name: 'arm',
        label: 'Arm length',
        kind: 'number',
        unit: 'm',
        least: 1,
        most: 2,
        otherwise: '1.4',
      },
      { ...bare, name: 'heater', label: 'Heater', kind: 'yes/no', otherwise: 'no' },
    ],
    rules: [{ name: 'Longer arm', when: 'arm > 1.4 m', then: { do: 'swap', item: 'FM-2', to: 'FM-3' } }],
  },
};

/** As the server answers: a rule for long arms, a refusal for those too long. */
function planOf({ body }: Sent): WishPlan {
  const { wishes } = body as { wishes: Record<string, string> };
  const arm = Number(wishes.arm ?? '1.4');
  const none = { wishes: {}, said: [], fulfilledBy: null, request: null, preview: null };
  if (arm > 2) return { ...none, problems: [{ where: 'wish', name: 'Arm length', says: 'it is too long' }] };
  return {
    ...none,
    problems: [],
    said: arm > 1.4 ? [{ rule: 'Longer arm', says: 'FM-2 is swapped for FM-3' }] : [],
    preview: {
      ...{
        origin: { number: 'FM-1', name: 'Station', version: 'A/1' },
        place: '/To order',
        lines: [],
        tree: [],
      },
      ...{ hindrances: [], configurations: [], ready: true },
    },
  };
}

const row = (id: string, more: Partial<WishSheetRow>): WishSheetRow => ({
  ...{
    id,
    recipe: 'FR-1',
    recipeVersion: 'A/2',
    batch: 'b',
    for: `Customer ${id}`,
    by: 'Ada',
    at: '2026-10-01T00:00:00.000Z',
  },
  ...{ wishes: {}, state: 'made', says: '', variant: `V-${id}`, dangling: 0, leaking: 0, references: 7 },
  ...more,
});

const screenOf = (address: string, answers: Answers = {}): ReturnType<typeof show> =>
  show(<WishScreen />, {
    address,
    answers: {
      '/api/recipe': VIEW,
      '/api/recipe/check': [],
      '/api/wishes/plan': planOf,
      '/api/wishes': [
        row('1', {}),
        row('2', {
          state: 'failed',
          variant: null,
          dangling: null,
          says: 'Rule “Longer arm”: there is no FM-9',
        }),
      ],
      ...answers,
    },
  });

describe('a wish sheet', () => {
  it('is a form of the recipe, and says while it is filled in what comes of it', async () => {
    const { user } = screenOf('/wish?recipe=FR-1');
    const arm = await screen.findByRole('textbox', { name: 'Arm length in m, 1 to 2' });
    await screen.findByText('No rule holds: a plain copy.');
    await user.clear(arm);
    await user.type(arm, '1.8');
    await screen.findByText('FM-2 is swapped for FM-3');
    const make = screen.getByRole('button', { name: 'Make the variant' });
    await waitFor(() => expect(make.hasAttribute('disabled')).toBe(false));
    await user.clear(arm);
    await user.type(arm, '3');
    await screen.findByText('Arm length: it is too long.');
    expect(make.hasAttribute('disabled')).toBe(true);
  });

  it('is listed with what came of it, and why it failed', async () => {
    screenOf('/wish?recipe=FR-1&view=sheets');
    const grid = await screen.findByRole('grid', { name: 'Wish sheets' });
    await waitFor(() =>
      expect(within(grid).getByRole('row', { name: /Customer 1 made V-1 7 references hold/ })).toBeDefined(),
    );
    expect(within(grid).getByRole('row', { name: /Customer 2 failed .*there is no FM-9/ })).toBeDefined();
  });

  it('comes from a table too, as many as there are rows', () => {
    const { wishes } = VIEW.recipe;
    const sheetsIn = (table: string): unknown => readSheets(table, wishes).sheets;
    expect(sheetsIn('for\tarm\theater\nA\t1.6\tyes\nB\t\tno\n')).toEqual([
      { for: 'A', wishes: { arm: '1.6', heater: 'yes' } },
      { for: 'B', wishes: { heater: 'no' } },
    ]);
    // A decimal comma parts nothing where semicolons do; cells in quotes may hold what parts others.
    expect(sheetsIn('Arm length;heater;For\n1,6;yes;"Valley; lower"')).toEqual([
      { for: 'Valley; lower', wishes: { arm: '1,6', heater: 'yes' } },
    ]);
    expect(sheetsIn('')).toEqual([]);
    expect(readSheets('arm,Arm length\n1,2', wishes).trouble).toBe(
      'Two columns say arm. Leave one of them out.',
    );
  });

  it('says once what the columns of somebody else’s table are', async () => {
    const { user, sentTo } = screenOf('/wish?recipe=FR-1');
    await user.click(await screen.findByRole('button', { name: /^Many/ }));
    const dialog = within(await screen.findByRole('dialog'));
    await user.click(dialog.getByRole('textbox', { name: 'Wish sheets' }));
    await user.paste('Reach;Order no\n1,6 m;4711');
    expect(dialog.getByRole('button', { name: /^Make/ }).hasAttribute('disabled')).toBe(true);
    await user.selectOptions(dialog.getByRole('combobox', { name: 'Column “Reach” is' }), 'Arm length');
    await user.selectOptions(dialog.getByRole('combobox', { name: 'Column “Order no” is' }), 'left out');
    const make = dialog.getByRole('button', { name: 'Make the variant' });
    await waitFor(() => expect(make.hasAttribute('disabled')).toBe(false));
    await user.click(make);
    await waitFor(() =>
      expect(sentTo('/api/wishes').at(-1)?.body).toMatchObject({
        sheets: [{ for: '', wishes: { arm: '1,6 m' } }],
      }),
    );
  });
});

describe('a recipe', () => {
  it('is shown in rows and as text, with what is wrong beside the rule', async () => {
    const problems = [{ where: 'rule', name: 'Longer arm', says: 'the units do not fit' }] as const;
    const { user } = screenOf('/wish?recipe=FR-1&view=rules', { '/api/recipe/check': problems });
    await screen.findByText('the units do not fit');
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'When' }).value).toBe('arm > 1.4 m');
    expect(screen.getByRole('button', { name: 'Check out to change it' })).toBeDefined();
    await user.click(screen.getByRole('radio', { name: 'As text' }));
    expect(screen.getByRole<HTMLTextAreaElement>('textbox', { name: 'The recipe as JSON' }).value).toContain(
      '"swap"',
    );
  });

  it('keeps what two kinds of action have in common', () => {
    const counted = asKind({ do: 'swap', item: 'FM-2', to: 'FM-3' }, 'count');
    expect(counted).toEqual({ do: 'count', count: '', item: 'FM-2', in: '', step: [0, 0, 0] });
    const placed = withField(counted, 'step', '0, 5, 10.5');
    expect(fieldText(placed, 'step')).toBe('0, 5, 10.5');
    expect(wishesIn(wishesText({ arm: '1.6 m', colour: 'red' }))).toEqual({ arm: '1.6 m', colour: 'red' });
    expect([moved(['a', 'b'], 0, 1), moved(['a', 'b'], 0, -1)]).toEqual([
      ['b', 'a'],
      ['a', 'b'],
    ]);
  });
});
