// @vitest-environment happy-dom
import type { CarryOverPlan, CarryOverResult, CarryOverRow } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Sent } from '../../testing/show.js';
import { CarryOverDialog } from './carry-over-dialog.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const row = (number: string, more: Partial<CarryOverRow> = {}): CarryOverRow => ({
  ...{ number, name: number, origin: `O-${number}`, from: 'A/1', to: 'B/1', kind: 'take' },
  ...{ because: 'Stronger', says: '', stops: false, contradictions: [], keeps: [] },
  ...more,
});

it('shows what each copy would take, leaves what is not wanted, and tells what stays behind', async () => {
  const plan: CarryOverPlan = {
    ...{ variant: 'V-1', origin: 'FM-1' },
    rows: [row('V-2'), row('V-3'), row('V-4', { kind: 'both', stops: true, says: 'both files changed' })],
  };
  const result: CarryOverResult = {
    variant: 'V-1',
    done: [{ number: 'V-2', version: 'A/2' }],
    left: [{ number: 'V-3', says: 'left for later' }],
  };
  const sent: unknown[] = [];
  const { user } = show(<CarryOverDialog variant="V-1" onClose={() => undefined} />, {
    answers: {
      '/api/carry-over': ({ method, body }: Sent) => {
        if (method === 'POST') sent.push(body);
        return method === 'POST' ? result : plan;
      },
    },
  });
  const grid = await screen.findByRole('grid', { name: 'What is carried over' });
  expect(within(grid).getByRole('row', { name: /V-4 .*both changed both files changed/ })).toBeDefined();
  expect(screen.getByRole('checkbox', { name: 'Carry V-4 over' }).hasAttribute('disabled')).toBe(true);
  await user.click(screen.getByRole('checkbox', { name: 'Carry V-3 over' }));
  await user.click(screen.getByRole('button', { name: 'Carry 1 over' }));
  await screen.findByText(/1 item was carried over: V-2 A\/2/);
  expect(sent).toEqual([{ item: 'V-1', leave: ['V-3'], decided: [] }]);
  expect(screen.getByText(/stays behind: left for later/)).toBeDefined();
});

it('has what both changed decided side by side before it is carried over', async () => {
  const finish = { field: 'finish', base: 'raw', origin: 'zinc', copy: 'painted' };
  const plan: CarryOverPlan = {
    ...{ variant: 'V-1', origin: 'FM-1' },
    rows: [
      row('V-2', { contradictions: [finish, { field: 'amount of V-9', base: '', origin: '2', copy: '3' }] }),
      row('V-3', { keeps: ['colour'] }),
    ],
  };
  const result: CarryOverResult = { variant: 'V-1', done: [], left: [] };
  const sent: unknown[] = [];
  const { user } = show(<CarryOverDialog variant="V-1" onClose={() => undefined} />, {
    answers: {
      '/api/carry-over': ({ method, body }: Sent) => {
        if (method === 'POST') sent.push(body);
        return method === 'POST' ? result : plan;
      },
    },
  });
  await screen.findByRole('heading', { name: 'Both sides changed: 2, 2 to decide' });
  expect(screen.getByText(/keeps its own colour/)).toBeDefined();
  const carry = screen.getByRole('button', { name: 'Carry 2 over' });
  expect(carry.hasAttribute('disabled')).toBe(true);
  await user.click(screen.getByRole('button', { name: 'The copy everywhere' }));
  await user.click(
    within(screen.getByRole('radiogroup', { name: 'V-2, finish' })).getByRole('radio', {
      name: 'Origin: zinc',
    }),
  );
  await user.click(carry);
  await screen.findByText(/0 items were carried over/);
  expect(sent).toEqual([
    {
      item: 'V-1',
      leave: [],
      decided: [
        { number: 'V-2', field: 'finish', take: 'origin' },
        { number: 'V-2', field: 'amount of V-9', take: 'copy' },
      ],
    },
  ]);
});
