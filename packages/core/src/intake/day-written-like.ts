// One by one: the whole package would be read at the start of every process.
import { format } from 'date-fns/format';
import { isValid } from 'date-fns/isValid';
import { parse } from 'date-fns/parse';

/** Ways in which title blocks write a day (patterns of Unicode TR 35); numeric ones that differ only in order stand together. */
const WAYS: readonly (readonly string[])[] = [
  ['yyyy-MM-dd'],
  ['yyyy/MM/dd'],
  ['yyyy.MM.dd'],
  ['yyyyMMdd'],
  ['dd.MM.yyyy'],
  ['d.M.yyyy'],
  ['dd.MM.yy'],
  ['dd/MM/yyyy', 'MM/dd/yyyy'],
  ['d/M/yyyy', 'M/d/yyyy'],
  ['dd/MM/yy', 'MM/dd/yy'],
  ['dd-MM-yyyy', 'MM-dd-yyyy'],
  ['dd MMM yyyy'],
  ['d MMM yyyy'],
  ['dd-MMM-yyyy'],
  ['dd-MMM-yy'],
  ['MMM d, yyyy'],
  ['d MMMM yyyy'],
  ['MMMM d, yyyy'],
  ['MMM yyyy'],
  ['yyyy-MM'],
  ['MM/yyyy'],
  ['MM.yyyy'],
  ['yyyy'],
];
const PLAIN = 'yyyy-MM-dd';

/**
 * A day written as another was written: `27.11.2026` after `03.04.2024`. Where the other can be read in two ways
 * (`03/04/2024`), or in none, it is ISO 8601, which nobody takes for another day.
 *
 * @param day local time
 */
export function dayWrittenLike(sample: string, day: Date): string {
  const said = sample.trim();
  for (const way of WAYS) {
    const fitting = way.filter((pattern) => isWrittenBy(said, pattern));
    if (fitting.length === 0) continue;
    const texts = new Set(fitting.map((pattern) => format(day, pattern)));
    const [text = ''] = texts;
    if (texts.size > 1) break;
    return said === said.toUpperCase() ? text.toUpperCase() : text;
  }
  return format(day, PLAIN);
}

function isWrittenBy(text: string, pattern: string): boolean {
  const read = parse(text, pattern, new Date(2000, 0, 1));
  return isValid(read) && format(read, pattern).toLowerCase() === text.toLowerCase();
}
