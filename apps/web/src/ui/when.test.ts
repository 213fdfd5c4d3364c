import { expect, it } from 'vitest';
import { sayDate } from './when.js';

it.each([
  ['2026-11-25T09:05:00', /^today 09:05/],
  ['2026-11-24T23:59:00', /^yesterday 11:59 PM|^yesterday 23:59/],
  ['2026-03-02T12:00:00', /^2 Mar$/],
  ['2025-12-31T12:00:00', /^31 Dec 2025$/],
])('%s is said as people say it', (date, said) => {
  expect(sayDate(new Date(date), new Date('2026-11-25T15:00:00'))).toMatch(said);
});
