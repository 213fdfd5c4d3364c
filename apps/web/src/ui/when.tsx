import { useShowing } from './showing.js';

const DAY_MS = 24 * 60 * 60 * 1000;

// Made once: making one takes longer than all else in a row of a table.
const EXACT = new Intl.DateTimeFormat(undefined, { dateStyle: 'full', timeStyle: 'medium' });
const TIME = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit' });
const THIS_YEAR = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });
const OTHER_YEAR = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });

/** A date as people say it, with the exact time on hover. */
export function When({ at }: { readonly at: string }): React.JSX.Element {
  const { dates } = useShowing();
  const date = new Date(at);
  return (
    <time dateTime={at} title={EXACT.format(date)}>
      {dates === 'exact' ? exactly(date) : sayDate(date, new Date())}
    </time>
  );
}

/** `2026-03-31 14:05`, in the time of the person who looks. */
function exactly(date: Date): string {
  const two = (value: number): string => String(value).padStart(2, '0');
  const day = [date.getFullYear(), two(date.getMonth() + 1), two(date.getDate())].join('-');
  return `${day} ${two(date.getHours())}:${two(date.getMinutes())}`;
}

export function sayDate(date: Date, now: Date): string {
  const days = Math.floor((startOfDay(now) - startOfDay(date)) / DAY_MS);
  if (days === 0) return `today ${TIME.format(date)}`;
  if (days === 1) return `yesterday ${TIME.format(date)}`;
  return (date.getFullYear() === now.getFullYear() ? THIS_YEAR : OTHER_YEAR).format(date);
}

function startOfDay(date: Date): number {
  return new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();
}
