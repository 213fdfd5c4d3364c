const DAY_MS = 24 * 60 * 60 * 1000;

/** A date as people say it, with the exact time on hover. */
export function When({ at }: { readonly at: string }): React.JSX.Element {
  const date = new Date(at);
  return (
    <time dateTime={at} title={date.toLocaleString(undefined, { dateStyle: 'full', timeStyle: 'medium' })}>
      {sayDate(date, new Date())}
    </time>
  );
}

export function sayDate(date: Date, now: Date): string {
  const days = Math.floor((startOfDay(now) - startOfDay(date)) / DAY_MS);
  const time = date.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' });
  if (days === 0) return `today ${time}`;
  if (days === 1) return `yesterday ${time}`;
  const year = date.getFullYear() === now.getFullYear() ? {} : ({ year: 'numeric' } as const);
  return date.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', ...year });
}

function startOfDay(date: Date): number {
  return new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();
}
