// @vitest-environment happy-dom
import type { StepPreview } from '@stem-trace/contract';
import { LIFECYCLE, valueAt, type StepName } from '@stem-trace/core';
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Shown } from '../testing/show.js';
import { StepDialog } from './step-dialog.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const PREVIEW: StepPreview = {
  items: [{ number: 'FM-1', version: 'A/1' }],
  refused: [],
  drafts: [],
  users: 0,
};

function dialog(name: StepName, preview: Partial<StepPreview>, onReason = vi.fn()): Shown {
  const step = valueAt(
    LIFECYCLE,
    LIFECYCLE.findIndex((one) => one.name === name),
  );
  return show(<StepDialog items={['FM-1']} step={step} onReason={onReason} onClose={vi.fn()} />, {
    answers: { '/api/steps/preview': { ...PREVIEW, ...preview } },
  });
}

it('warns of a release over drafts and lists them, and lets it be done all the same', async () => {
  const release = vi.fn();
  const drafts: StepPreview['drafts'] = [{ number: 'FM-2', name: 'Rod', version: 'A/3', state: 'draft' }];
  const { user } = dialog('release', { drafts, users: 3 }, release);
  expect((await screen.findByRole('alert')).textContent).toMatch(
    /One item below it was never released:.*FM-2/,
  );
  expect(screen.getByText('3 items record it.')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Release' }));
  expect(release).toHaveBeenCalledExactlyOnceWith('');
});

it('says what is refused and why, and waits until nothing is', async () => {
  dialog('release', { refused: ['FM-1: Ben holds it; it must be let go first'] });
  expect((await screen.findByRole('alert')).textContent).toContain('Ben holds it');
  expect(screen.getByRole('button', { name: 'Release' }).hasAttribute('disabled')).toBe(true);
});

it('wants a reason where the step needs one', async () => {
  const back = vi.fn();
  const { user } = dialog('send back', {}, back);
  const button = screen.getByRole('button', { name: 'Send back' });
  expect(button.hasAttribute('disabled')).toBe(true);
  await user.type(screen.getByRole('textbox', { name: /Reason \(needed/ }), ' wall too thin ');
  await vi.waitFor(() => expect(button.hasAttribute('disabled')).toBe(false));
  await user.click(button);
  expect(back).toHaveBeenCalledExactlyOnceWith('wall too thin');
});
