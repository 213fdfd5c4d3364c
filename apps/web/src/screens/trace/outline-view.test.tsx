// @vitest-environment happy-dom
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { netAnswer, netNode } from '../../testing/nets.js';
import { show, type Shown } from '../../testing/show.js';
import { OutlineView } from './outline-view.js';

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

/** A station of two masts with four bolts each, a drifting sensor whose mass nobody says, and a gap. */
const NODES = [
  netNode('STATION', { kind: 'assembly', state: 'draft' }),
  netNode('MAST', { kind: 'assembly' }),
  netNode('BOLT', { massKg: 0.25 }),
  netNode('SENSOR', { state: 'draft' }),
  netNode('LOST', { isGap: true, state: null, version: null, name: 'not in the store' }),
];
const ANSWER = netAnswer(
  NODES,
  [
    [0, 1, 2, 0],
    [0, 3, 1, 2],
    [0, 4, 1, 0],
    [1, 2, 4, 0],
  ],
  { configurations: [[1, ['Sun powered']]] },
);

function outline(search = ''): Shown {
  return show(<OutlineView focus="STATION" />, {
    address: `/trace?item=STATION&view=outline${search}`,
    answers: { '/api/net': ANSWER },
  });
}

const row = (name: RegExp): HTMLElement =>
  within(screen.getByRole('treegrid', { name: 'Structure' })).getByRole('row', { name });

it('opens to a level, and adds up quantities and masses with what is unknown', async () => {
  const { user } = outline('&level=99');
  await screen.findByRole('treegrid');
  expect(row(/BOLT/).getAttribute('aria-level')).toBe('3');
  // Four in each of two masts: eight bolts.
  expect(row(/BOLT/).textContent).toContain('48');
  expect(row(/^Collapse|STATION/).textContent).toContain('≥ 2');
  expect(within(row(/SENSOR/)).getByText('2')).toBeDefined();
  await user.click(screen.getByRole('radio', { name: '2' }));
  expect(screen.queryByRole('row', { name: /BOLT/ })).toBeNull();
  expect(await screen.findByText('4 of 5 rows')).toBeDefined();
});

it('opens and closes branches by the arrow keys', async () => {
  const { user } = outline();
  const tree = await screen.findByRole('treegrid');
  tree.focus();
  await user.keyboard('{ArrowDown}');
  expect(row(/MAST/).getAttribute('aria-expanded')).toBe('false');
  await user.keyboard('{ArrowRight}');
  expect(row(/MAST/).getAttribute('aria-expanded')).toBe('true');
  expect(row(/BOLT/)).toBeDefined();
  await user.keyboard('{ArrowRight}');
  expect(tree.getAttribute('aria-activedescendant')).toBe(row(/BOLT/).id);
  await user.keyboard('{ArrowLeft}{ArrowLeft}');
  expect(screen.queryByRole('row', { name: /BOLT/ })).toBeNull();
});

it('goes to what the sums lack by one key, opening all levels where none is in sight', async () => {
  const { user } = outline();
  const tree = await screen.findByRole('treegrid');
  tree.focus();
  await user.keyboard('m');
  expect(row(/SENSOR/).dataset['cursor']).toBe('true');
  await user.keyboard('m');
  expect(await screen.findByText(/All levels are open now/)).toBeDefined();
  expect(row(/BOLT/)).toBeDefined();
  await user.keyboard('{End}m');
  expect(await screen.findByText(/No further part without mass/)).toBeDefined();
});

it('opens where it says something, and says how often', async () => {
  const { user } = outline();
  await user.type(await screen.findByLabelText('Expand matches'), 'bolt{Enter}');
  expect(await screen.findByText('1 with “bolt”')).toBeDefined();
  expect(row(/BOLT/).dataset['cursor']).toBe('true');
});

it('shows the columns that were chosen, also the next time', async () => {
  const { user } = outline();
  await screen.findByRole('treegrid');
  expect(screen.queryByRole('columnheader', { name: 'Configurations' })).toBeNull();
  await user.click(screen.getByRole('button', { name: /columns/i }));
  await user.click(screen.getByRole('checkbox', { name: 'Configurations' }));
  await user.keyboard('{Escape}');
  expect(row(/SENSOR/).textContent).toContain('only Sun powered');
  cleanup();
  outline();
  await screen.findByRole('treegrid');
  expect(screen.getByRole('columnheader', { name: 'Configurations' })).toBeDefined();
});

it('copies what is shown as a table, with levels and without line breaks', async () => {
  const { user } = outline('&level=99');
  await screen.findByRole('treegrid');
  await user.click(screen.getByRole('button', { name: 'Copy as a table' }));
  const lines = (await navigator.clipboard.readText()).split('\n').map((line) => line.split('\t'));
  expect(lines[0]?.slice(0, 3)).toEqual(['Level', 'Number', 'Name']);
  expect(lines.slice(1).map(([level, number]) => `${level} ${number}`)).toEqual([
    '0 STATION',
    '1 MAST',
    '2 BOLT',
    '1 SENSOR',
    '1 LOST',
  ]);
  expect(await screen.findByText(/5 rows copied/)).toBeDefined();
});

it('picks into the tray by Space, but no gaps', async () => {
  const { user } = outline();
  (await screen.findByRole('treegrid')).focus();
  await user.keyboard('{ArrowDown} ');
  expect(row(/MAST/).getAttribute('aria-selected')).toBe('true');
  await user.keyboard('{End} ');
  expect(row(/LOST/).getAttribute('aria-selected')).toBe('false');
});
