// @vitest-environment happy-dom
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Shown } from '../testing/show.js';
import { CommonDialog } from './common-dialog.js';

const ROW = { number: 'FM-1000', name: 'Station', version: 'B/2', state: 'released' };

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function ask(answer: object): Shown & { readonly onClose: () => void } {
  const onClose = vi.fn();
  const shown = show(<CommonDialog items={['FM-1', 'FM 2']} onClose={onClose} />, {
    address: '/find?lens=newest',
    answers: { '/api/common': answer },
  });
  return { ...shown, onClose };
}

it('lists what holds all of them under the lens, and opens one by Enter', async () => {
  const { user, sentTo, address, onClose } = ask({ rows: [ROW], hidden: 2 });
  expect(await screen.findByRole('row', { name: /FM-1000/ })).toBeDefined();
  expect(sentTo('/api/common')[0]?.body).toEqual({ items: ['FM-1', 'FM 2'], lens: 'newest' });
  expect(screen.getByText('2 not visible to you')).toBeDefined();
  await user.keyboard('{Enter}');
  expect(onClose).toHaveBeenCalledOnce();
  expect(address()).toBe('/trace?item=FM-1000&lens=newest');
});

it('says that nothing does, and leads to Find with all of them', async () => {
  ask({ rows: [], hidden: 0 });
  expect(await screen.findByText('No assembly contains all of them.')).toBeDefined();
  const words = new URL(
    screen.getByRole('link', { name: /in Find/ }).getAttribute('href') ?? '',
    'http://here',
  ).searchParams.get('words');
  expect(words).toBe('made of FM-1 made of "FM 2"');
});
