// @vitest-environment happy-dom
import type { IntakeRowView } from '@stem-trace/contract';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { ReferencesDialog } from './references-dialog.js';

afterEach(cleanup);

const ROW = {
  key: 't.stp#1',
  number: 'T',
  doubtful: [
    { locator: 'C:\\w\\p.stp', number: 'P', by: 'product id' },
    { locator: 'lost.stp', number: null, by: null },
    { locator: 'q.stp', number: 'Q-2', by: 'hand' },
  ],
} as unknown as IntakeRowView;

it('says how each reference was found, and keeps earlier corrections when one is made', async () => {
  const onCorrect = vi.fn();
  render(<ReferencesDialog row={ROW} onCorrect={onCorrect} onClose={() => undefined} />);
  expect(screen.getByText('guess: product id')).toBeTruthy();
  expect(screen.getByText('your correction')).toBeTruthy();
  expect(screen.getByText('gap')).toBeTruthy();
  await userEvent.type(screen.getByLabelText('Item that lost.stp means'), 'L-1{Enter}');
  expect(onCorrect).toHaveBeenCalledWith({ 'q.stp': 'Q-2', 'lost.stp': 'L-1' });
});
