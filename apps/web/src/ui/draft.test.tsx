// @vitest-environment happy-dom
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { AskDialog, type AskedField } from './ask-dialog.js';
import { DraftOwner } from './draft.js';

afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const NAME: AskedField = { key: 'name', label: 'Name', value: 'Door' };

function open(
  owner: string,
  fields: readonly AskedField[] = [NAME],
  title = 'Rename FM-1',
): { onAnswer: ReturnType<typeof vi.fn<() => Promise<void>>> } {
  cleanup();
  const onAnswer = vi.fn(() => Promise.resolve());
  render(
    <DraftOwner value={owner}>
      <AskDialog
        title={title}
        action="Rename"
        fields={fields}
        onAnswer={onAnswer}
        onClose={() => undefined}
      />
    </DraftOwner>,
  );
  return { onAnswer };
}

const field = (): HTMLInputElement => screen.getByLabelText('Name');

it('what was typed is there again after a reload, and only for whoever typed it', async () => {
  const user = userEvent.setup();
  open('ines');
  await user.type(field(), ' left');
  open('ines');
  expect(field().value).toBe('Door left');
  expect(screen.getByRole('status').textContent).toContain('Restored: what you typed before.');
  open('teodor');
  expect(field().value).toBe('Door');
  open('ines', [NAME], 'Rename FM-2');
  expect(field().value).toBe('Door');
});

it('is gone once it is sent, cancelled, or begun anew', async () => {
  const user = userEvent.setup();
  for (const end of ['Rename', 'Cancel', 'Start over']) {
    open('ines');
    await user.type(field(), ' left');
    const { onAnswer } = open('ines');
    await user.click(screen.getByRole('button', { name: end }));
    if (end === 'Rename') expect(onAnswer).toHaveBeenCalledWith({ name: 'Door left' });
    open('ines');
    expect(field().value).toBe('Door');
  }
});

it('is no draft where it is a password, too old, or something else', async () => {
  const user = userEvent.setup();
  open('ines', [{ ...NAME, type: 'password' }]);
  await user.type(field(), ' secret');
  expect(JSON.stringify({ ...localStorage })).not.toContain('secret');

  const key = 'stem-trace.draft.ines.Rename FM-1';
  const week = 7 * 24 * 3600 * 1000;
  for (const kept of [
    { at: Date.now() - week - 1000, value: { name: 'old' } },
    { at: Date.now(), value: { name: 7 } },
    'no draft',
    [1],
  ]) {
    localStorage.setItem(key, JSON.stringify(kept));
    open('ines');
    expect(field().value).toBe('Door');
  }
});
