import { expect, it } from 'vitest';
import { EMPTY_DRAFT, requestOf } from './draft.js';

it('a draft that decides nothing asks for the proposal', () => {
  expect(requestOf('FM-1', EMPTY_DRAFT)).toMatchObject({
    item: 'FM-1',
    copy: 'proposed',
    alsoCopy: [],
    share: [],
    replace: [],
    prefix: '',
  });
});

it('decisions, names and the pattern go along', () => {
  const request = requestOf('FM-1@B/2', {
    ...EMPTY_DRAFT,
    copyAll: true,
    decisions: { 'FM-2': 'share', 'FM-3': 'copy' },
    find: 'FM',
    replace: 'FT',
    renamed: { 'FM-1': { name: 'Tide station' } },
    key: 'k',
  });
  expect(request).toEqual({
    item: 'FM-1@B/2',
    copy: 'all',
    alsoCopy: ['FM-3'],
    share: ['FM-2'],
    replace: [{ from: 'FM', to: 'FT' }],
    prefix: '',
    renamed: { 'FM-1': { name: 'Tide station' } },
    place: '',
    key: 'k',
  });
});
