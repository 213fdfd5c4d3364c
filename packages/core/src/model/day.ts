/** Days as ISO 8601 writes them, `2026-03-31`: texts that sort as they follow one another. */

/** Whether a text is a day that exists: `2026-02-31` does not. */
export function isDay(text: string): boolean {
  const time = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(text) : NaN;
  return !Number.isNaN(time) && new Date(time).toISOString().startsWith(text);
}

/** The day so many days later, or earlier where that is negative. */
export function shiftDay(day: string, by: number): string {
  const date = new Date(`${day}T00:00:00Z`);
  date.setUTCDate(date.getUTCDate() + by);
  return date.toISOString().slice(0, 10);
}
