/** What is different in a row, in words. */
import type { PairedBy } from './pair.js';
import type { Differs } from './difference.js';
import { parseDesignators, sayDesignators } from './designators.js';

/** What is told of one side of a row. */
interface SaidSideOfRow {
  readonly number: string;
  readonly version: string;
  /** As it is said: `0.4 m`. */
  readonly amount: string;
  readonly find: string;
  /** With ranges. */
  readonly designators: string;
  readonly configurations: string;
  readonly values: Readonly<Record<string, string>>;
  /** Number of what it lies in; empty on the first level. */
  readonly in: string;
}

export interface SaidRow {
  readonly before: SaidSideOfRow | null;
  readonly after: SaidSideOfRow | null;
  readonly differs: Differs;
}

/** In the order in which it matters; `added` or `removed` where there is one side alone. */
export function sayWhat({ differs, before, after }: SaidRow): readonly string[] {
  if (!before || !after) return [after ? 'added' : 'removed'];
  const said: string[] = [];
  const note = (isDifferent: boolean, words: string): void => {
    if (isDifferent) said.push(words);
  };
  const turned = (what: string, old: string, now: string): string =>
    `${what} ${old || 'none'} → ${now || 'none'}`;
  note(before.number !== after.number, `was ${before.number}`);
  note(differs.quantity, turned('quantity', before.amount, after.amount));
  note(differs.version && before.number === after.number, turned('version', before.version, after.version));
  note(differs.find, turned('find number', before.find, after.find));
  note(differs.designators, sayDesignatorChange(before.designators, after.designators));
  note(differs.configurations, turned('only in', before.configurations, after.configurations));
  note(differs.parent, before.in === '' ? 'was on the first level' : `was in ${before.in}`);
  for (const field of differs.fields)
    note(true, turned(field, before.values[field] ?? '', after.values[field] ?? ''));
  note(differs.placement && !differs.quantity && said.length === 0, 'placed elsewhere');
  return said;
}

/** Which came and which went. */
function sayDesignatorChange(before: string, after: string): string {
  const [old, now] = [namesOf(before), namesOf(after)];
  const came = [...now].filter((name) => !old.has(name));
  const went = [...old].filter((name) => !now.has(name));
  return [
    came.length > 0 ? `+ ${sayDesignators(came)}` : '',
    went.length > 0 ? `− ${sayDesignators(went)}` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

function namesOf(text: string): ReadonlySet<string> {
  const parsed = parseDesignators(text);
  return new Set(parsed.kind === 'designators' ? parsed.designators : []);
}

/** By what two rows were taken to be one, where that is not plain. */
export function sayPairedBy(by: PairedBy | null): string {
  switch (by) {
    case 'lineage':
      return 'paired by lineage';
    case 'find':
      return 'paired by find number';
    case 'designator':
      return 'paired by designators';
    case 'place':
      return 'paired by place';
    case 'hand':
      return 'paired by hand';
    default:
      return '';
  }
}
