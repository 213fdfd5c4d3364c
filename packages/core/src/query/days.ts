// One by one: the whole package would be read at the start of every process, which takes a quarter of a second.
import { addDays } from 'date-fns/addDays';
import { addMonths } from 'date-fns/addMonths';
import { addYears } from 'date-fns/addYears';
import { endOfMonth } from 'date-fns/endOfMonth';
import { format } from 'date-fns/format';
import { parseISO } from 'date-fns/parseISO';
import { startOfISOWeek } from 'date-fns/startOfISOWeek';
import type { DayRange } from './query.js';

/** What can be said for a day or several, for completion. */
export const DAY_WORDS = [
  'today',
  'yesterday',
  'last 7 days',
  'last 30 days',
  'last 12 months',
  'this week',
  'this month',
  'this year',
] as const;

/**
 * The days that a text means: `2026-03-31`, `2026-03`, `2026`, `today`, `yesterday`, `this week`, `last 30 days`.
 *
 * @param today as `2026-03-31`
 * @returns undefined for what is no day
 */
export function readDays(text: string, today: string): Required<DayRange> | undefined {
  const now = parseISO(today);
  const word = text.toLowerCase().trim();
  if (word === 'today') return { from: today, to: today };
  if (word === 'yesterday') return { from: day(addDays(now, -1)), to: day(addDays(now, -1)) };
  if (word === 'this week') return { from: day(startOfISOWeek(now)), to: today };
  if (word === 'this month') return { from: `${today.slice(0, 7)}-01`, to: today };
  if (word === 'this year') return { from: `${today.slice(0, 4)}-01-01`, to: today };
  const last = /^last (\d{1,4}) (day|week|month|year)s?$/.exec(word);
  if (last) return { from: day(before(now, Number(last[1]), last[2] ?? '')), to: today };
  if (/^[12]\d{3}$/.test(word)) return { from: `${word}-01-01`, to: `${word}-12-31` };
  if (/^[12]\d{3}-\d{2}$/.test(word)) {
    const first = parseISO(`${word}-01`);
    return Number.isNaN(first.getTime()) ? undefined : { from: day(first), to: day(endOfMonth(first)) };
  }
  if (!/^[12]\d{3}-\d{2}-\d{2}$/.test(word)) return undefined;
  const one = parseISO(word);
  return Number.isNaN(one.getTime()) ? undefined : { from: word, to: word };
}

function before(now: Date, count: number, unit: string): Date {
  switch (unit) {
    case 'day':
      return addDays(now, -count);
    case 'week':
      return addDays(now, -7 * count);
    case 'month':
      return addMonths(now, -count);
    default:
      return addYears(now, -count);
  }
}

/** No store is older. */
const EARLIEST = new Date(1900, 0, 1);

function day(date: Date): string {
  if (date < EARLIEST) return format(EARLIEST, 'yyyy-MM-dd');
  return format(date, 'yyyy-MM-dd');
}
