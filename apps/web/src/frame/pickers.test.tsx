// @vitest-environment happy-dom
import type { FindAnswer } from '@stem-trace/contract';
import { cleanup, screen } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { show } from '../testing/show.js';
import { ItemPicker } from './item-picker.js';
import { PlacePicker } from './place-picker.js';

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const FOUND = {
  ...{ total: 1, hidden: 0, near: [] },
  rows: [
    {
      ...{ number: 'FM-2200', name: 'Sensor arm', kind: 'assembly', state: 'released', version: 'A/1' },
      ...{ place: '/', changedAt: '', changedBy: '', heldBy: null, class: null, properties: {} },
      ...{ foundIn: 'name', released: null },
    },
  ],
} satisfies FindAnswer;

it('an item is completed from its name, with kind and state, and chosen by a key', async () => {
  const choose = vi.fn();
  const { user, sentTo } = show(<ItemPicker label="Item" value="" onChoose={choose} />, {
    answers: { '/api/items': FOUND },
  });
  await user.type(screen.getByRole('combobox', { name: 'Item' }), 'arm');
  const option = await screen.findByRole('option', { name: /FM-2200/ });
  expect(option.querySelector('[aria-label="assembly"]')).not.toBeNull();
  expect(option.querySelector('[aria-label="released"]')).not.toBeNull();
  expect(sentTo('/api/items').at(-1)?.search.get('words')).toBe('arm');
  await user.keyboard('{ArrowDown}{Enter}');
  expect(choose).toHaveBeenCalledExactlyOnceWith('FM-2200');
});

it('what was typed is taken by Enter, and signs of the search language are only signs', async () => {
  const choose = vi.fn();
  const { user, sentTo } = show(<ItemPicker label="Item" value="" onChoose={choose} />, {
    answers: { '/api/items': { ...FOUND, rows: [] } },
  });
  await user.type(screen.getByRole('combobox', { name: 'Item' }), 'a=(b');
  await vi.waitFor(() => expect(sentTo('/api/items').at(-1)?.search.get('words')).toBe('"a=(b"'));
  await user.keyboard('{Enter}');
  expect(choose).toHaveBeenCalledExactlyOnceWith('a=(b');
});

it('before anything is typed it offers what was looked at last', async () => {
  localStorage.setItem('stem-trace.looked.ines', JSON.stringify([{ number: 'FM-7', name: 'Mast' }]));
  const { user } = show(<ItemPicker label="Item" value="" onChoose={vi.fn()} />, { answers: {} });
  await user.click(screen.getByRole('combobox', { name: 'Item' }));
  expect(await screen.findByRole('option', { name: /FM-7/ })).toBeDefined();
});

function Places({ onChange }: { readonly onChange: (path: string) => void }): React.JSX.Element {
  const [place, setPlace] = useState('');
  return (
    <PlacePicker
      label="Place"
      value={place}
      onChange={(path) => {
        setPlace(path);
        onChange(path);
      }}
    />
  );
}

it('a place that does not exist is chosen only by saying that it is new', async () => {
  const change = vi.fn();
  const row = (path: string): object => ({ path, items: 0, watched: false });
  const { user } = show(<Places onChange={change} />, {
    answers: { '/api/places': [row('/'), row('/Projects'), row('/Projects/Tide')] },
  });
  const field = screen.getByRole('combobox', { name: 'Place' });
  await user.type(field, 'Projects/Tied');
  expect(await screen.findByText(/No such place/)).toBeDefined();
  expect(change).not.toHaveBeenCalledWith('/Projects/Tied');
  await user.click(await screen.findByRole('option', { name: 'New place /Projects/Tied' }));
  expect(change).toHaveBeenLastCalledWith('/Projects/Tied');
  expect(await screen.findByText('A new place.')).toBeDefined();
});

it('the list does not change under the pointer when what was typed becomes a place', async () => {
  const change = vi.fn();
  const row = (path: string): object => ({ path, items: 0, watched: false });
  const { user } = show(<Places onChange={change} />, {
    answers: { '/api/places': [row('/'), row('/Projects'), row('/Projects/Tide')] },
  });
  await user.type(screen.getByRole('combobox', { name: 'Place' }), '/Projects/Tide');
  await vi.waitFor(() => expect(change).toHaveBeenLastCalledWith('/Projects/Tide'));
  const offered = (await screen.findAllByRole('option')).map(({ textContent }) => textContent);
  expect(offered).toEqual(['/Projects/Tide']);
  await user.click(screen.getByRole('option', { name: '/Projects/Tide' }));
  expect(screen.getByRole<HTMLInputElement>('combobox', { name: 'Place' }).value).toBe('/Projects/Tide');
});
