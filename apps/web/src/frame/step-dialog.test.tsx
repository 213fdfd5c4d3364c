// @vitest-environment happy-dom
import type { OfferedStep, StepPreview } from '@stem-trace/contract';
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Sent, type Shown } from '../testing/show.js';
import { StepDialog } from './step-dialog.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const PREVIEW: StepPreview = {
  items: [{ number: 'FM-1', version: 'A/1', shown: 'd1' }],
  refused: [],
  drafts: [],
  users: 0,
  signatures: 0,
};
const RELEASE: OfferedStep = {
  ...{ name: 'release', from: 'in check', to: 'released', says: 'It is locked for good.' },
  ...{ asksReason: false, signatures: null, isHandingOn: false },
};
const TAKEN = { done: [{ number: 'FM-1', version: 'A/1' }], signed: [], refused: [] };

function dialog(
  step: Partial<OfferedStep>,
  preview: Partial<StepPreview> | ((sent: Sent) => Partial<StepPreview>),
  taken: unknown = TAKEN,
): Shown & { readonly close: () => void } {
  const close = vi.fn();
  const answer = (sent: Sent): StepPreview => ({
    ...PREVIEW,
    ...(typeof preview === 'function' ? preview(sent) : preview),
  });
  const shown = show(<StepDialog items={['FM-1']} step={{ ...RELEASE, ...step }} onClose={close} />, {
    answers: { '/api/steps/preview': answer, '/api/steps': taken },
  });
  return { ...shown, close };
}

const bodyOf = (shown: Shown): unknown => shown.sentTo('/api/steps')[0]?.body;

it('does not sign what changed since it was opened', async () => {
  const signed = { count: 1, given: [] };
  const shown = show(
    <StepDialog
      items={['FM-1']}
      step={{ ...RELEASE, signatures: signed }}
      shown={new Map([['FM-1', 'd0']])}
      onClose={() => undefined}
    />,
    { answers: { '/api/steps/preview': { ...PREVIEW, signatures: 1 }, '/api/steps': TAKEN } },
  );
  expect(await screen.findByText(/Changed since you opened it: FM-1 A\/1/)).toBeDefined();
  await shown.user.type(screen.getByLabelText('Your password, once more'), 'mine');
  expect(screen.getByRole('button', { name: 'Sign: release' }).hasAttribute('disabled')).toBe(true);
  expect(shown.sentTo('/api/steps')).toEqual([]);
});

it('takes along what is not released below, on demand, and says what is in the way until then', async () => {
  const drafts: StepPreview['drafts'] = [{ number: 'FM-2', name: 'Rod', version: 'A/3', state: 'draft' }];
  const shown = dialog({}, ({ body }) =>
    (body as { below: boolean }).below
      ? { drafts, users: 3 }
      : { drafts, refused: ['FM-1: FM-1 uses FM-2 A/3, which is not released'] },
  );
  expect((await screen.findByText(/One item below it does not count as released/)).textContent).toMatch(
    /FM-2/,
  );
  const button = screen.getByRole('button', { name: 'Release' });
  expect(button.hasAttribute('disabled')).toBe(true);
  await shown.user.click(screen.getByRole('checkbox', { name: 'Take it along' }));
  expect(await screen.findByText('3 items record it.')).toBeDefined();
  await vi.waitFor(() => expect(button.hasAttribute('disabled')).toBe(false));
  await shown.user.click(button);
  expect(bodyOf(shown)).toEqual({
    ...{ items: ['FM-1'], step: 'release', reason: '', below: true, leavesOut: false },
  });
  await vi.waitFor(() => expect(shown.close).toHaveBeenCalled());
});

it('says what is refused and why, and waits until nothing is', async () => {
  dialog({}, { refused: ['FM-1: Ben holds it; it must be let go first'] });
  expect((await screen.findByRole('alert')).textContent).toContain('Ben holds it');
  expect(screen.getByRole('button', { name: 'Release' }).hasAttribute('disabled')).toBe(true);
});

it('wants a reason where the step needs one', async () => {
  const shown = dialog({ name: 'send back', asksReason: true }, {});
  const button = screen.getByRole('button', { name: 'Send back' });
  expect(button.hasAttribute('disabled')).toBe(true);
  await shown.user.type(screen.getByRole('textbox', { name: /Reason \(needed/ }), ' wall too thin ');
  await vi.waitFor(() => expect(button.hasAttribute('disabled')).toBe(false));
  await shown.user.click(button);
  expect(bodyOf(shown)).toMatchObject({ step: 'send back', reason: 'wall too thin' });
});

it('asks for the password where the step is signed, and keeps what was typed where it is wrong', async () => {
  const wrong = (): Response =>
    Response.json(
      {
        code: 'SIGN_IN_FAILED',
        status: 401,
        detail: 'The password is not right. Nothing was signed; try again.',
      },
      { status: 401 },
    );
  const shown = dialog({ signatures: { count: 2, given: ['Teodor Almås'] } }, { signatures: 2 }, wrong);
  expect(await screen.findByText(/Signed by Teodor Almås. 2 of 2 signatures/)).toBeDefined();
  const button = screen.getByRole('button', { name: 'Sign: release' });
  expect(button.hasAttribute('disabled')).toBe(true);
  await shown.user.type(screen.getByLabelText('Your password, once more'), 'not mine');
  await shown.user.click(button);
  expect(await screen.findByText(/The password is not right/)).toBeDefined();
  expect(bodyOf(shown)).toMatchObject({ password: 'not mine', zone: expect.stringMatching(/./) as string });
  expect(shown.close).not.toHaveBeenCalled();
});

it('asks by name and by a day where it hands on to a check, and nobody where it does not', async () => {
  const people = [
    { login: 'maren', name: 'Maren Oduya' },
    { login: 'pavo', name: 'Pavo Lind' },
  ];
  const shown = show(
    <StepDialog items={['FM-1']} step={{ ...RELEASE, isHandingOn: true }} onClose={() => undefined} />,
    {
      answers: {
        '/api/steps/preview': PREVIEW,
        '/api/steps': TAKEN,
        '/api/find/words': {
          ...{ properties: [], states: [], classes: [], places: [], me: 'ines', today: '2026-11-26' },
          people,
        },
      },
    },
  );
  const ask = await screen.findByLabelText('Ask somebody to decide');
  await vi.waitFor(() => expect(ask.textContent).toContain('Pavo Lind'));
  await shown.user.selectOptions(ask, 'Maren Oduya');
  await shown.user.selectOptions(ask, 'Pavo Lind');
  await shown.user.click(screen.getByRole('button', { name: 'Do not ask Maren Oduya' }));
  await shown.user.click(screen.getByRole('button', { name: 'Release' }));
  expect(bodyOf(shown)).toMatchObject({ items: ['FM-1'], for: ['pavo'] });
  expect(bodyOf(shown)).not.toHaveProperty('until');
  cleanup();
  dialog({}, {});
  await screen.findByRole('button', { name: 'Release' });
  expect(screen.queryByLabelText('Ask somebody to decide')).toBeNull();
});
