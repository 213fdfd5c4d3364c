// @vitest-environment happy-dom
import type { EffectRow } from '@stem-trace/contract';
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { ENGINEER, show, type Shown } from '../../testing/show.js';
import { EffectView } from './effect-view.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function touched(number: string, more: Partial<EffectRow> = {}): EffectRow {
  return {
    part: 'assembly',
    level: 1,
    number,
    name: `name of ${number}`,
    kind: 'assembly',
    version: 'A/1',
    state: 'draft',
    heldBy: null,
    quantity: 1,
    through: [],
    mayChange: true,
    origin: null,
    ...more,
  };
}

const HOLDER = {
  login: 'pavo',
  name: 'Pavo Lind',
  initials: 'PL',
  since: '2026-01-01T00:00:00Z',
  reason: '',
};
const ROWS = [
  touched('STATION', { part: 'product', level: 2 }),
  touched('MAST'),
  touched('ARM', { heldBy: HOLDER }),
  touched('OLD', { mayChange: false, state: 'released' }),
  touched('BOLT-D', { part: 'drawing', level: 0 }),
];

function effect(rows = ROWS, person = ENGINEER): Shown {
  return show(<EffectView focus="BOLT" />, {
    address: '/trace?item=BOLT&view=effect&lens=newest',
    person,
    answers: {
      '/api/effect': { items: ['BOLT'], rows, hidden: 2, cut: 0 },
      '/api/holds': { done: [], refused: [{ number: 'STATION', says: 'STATION is held by Pavo' }] },
    },
  });
}

it('asks as far up as is wanted, and leaves out what is switched off', async () => {
  const { user, sentTo, address } = effect();
  expect(await screen.findByRole('row', { name: /STATION/ })).toBeDefined();
  expect(sentTo('/api/effect')[0]?.body).toEqual({ items: ['BOLT'], lens: 'newest', levels: 0 });
  expect(screen.getByText('2 not visible to you')).toBeDefined();
  await user.click(screen.getByRole('button', { name: '3 assemblies' }));
  expect(screen.queryByRole('row', { name: /MAST/ })).toBeNull();
  expect(screen.getByRole('row', { name: /BOLT-D/ })).toBeDefined();
  expect(address()).toContain('without=assembly');
  await user.click(screen.getByRole('radio', { name: '1 level' }));
  await vi.waitFor(() => expect(sentTo('/api/effect')[1]?.body).toMatchObject({ levels: 1 }));
});

it('checks out what is free: neither held nor beyond what one may change', async () => {
  const { user, sentTo } = effect();
  await user.click(await screen.findByRole('button', { name: /Check out the 3 that are free/ }));
  // The same dialog as for an assembly says what can be had, and asks for a reason.
  await user.click(await screen.findByRole('button', { name: 'Check out 3' }));
  await vi.waitFor(() => expect(sentTo('/api/holds')).toHaveLength(1));
  expect(sentTo('/api/holds')[0]?.body).toEqual({
    items: ['STATION', 'MAST', 'BOLT-D'],
    reason: 'Change of BOLT',
    change: '',
  });
});

it('puts all of it into the tray, once', async () => {
  const { user } = effect();
  const all = await screen.findByRole('button', { name: /All into the tray/ });
  await user.click(all);
  await user.click(all);
  for (const name of [/STATION/, /MAST/, /ARM/, /BOLT-D/])
    expect(screen.getByRole('row', { name }).getAttribute('aria-selected')).toBe('true');
  // With the tray, all of it is asked about together.
  expect(screen.getByText('with the 5 picked')).toBeDefined();
});

it('lets a viewer look, but change nothing', async () => {
  effect(ROWS, { ...ENGINEER, role: 'viewer' });
  await screen.findByRole('row', { name: /STATION/ });
  expect(screen.getByRole('button', { name: /Check out/ }).hasAttribute('disabled')).toBe(true);
  expect(screen.getByRole('button', { name: /Watch all/ }).hasAttribute('disabled')).toBe(true);
  expect(screen.getByRole('button', { name: /CSV/ }).hasAttribute('disabled')).toBe(false);
});

it('says that nothing is touched', async () => {
  effect([]);
  expect(await screen.findByText(/touches no other file that the store knows of/)).toBeDefined();
});
