/** What is different in a row, in words. */
import type { CompareRow } from '@stem-trace/contract';
import { parseDesignators, sayDesignators } from '@stem-trace/core';

/** In the order in which it matters. */
export function sayWhat({ sign, differs, before, after }: CompareRow): readonly string[] {
  if (!before || !after) return [sign];
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
export function sayPairedBy({ by, before, after }: CompareRow): string {
  if (by === null || !before || !after) return '';
  const says = {
    item: '',
    lineage: 'paired by lineage',
    find: 'paired by find number',
    designator: 'paired by designators',
    place: 'paired by place',
    hand: 'paired by hand',
  } as const;
  return says[by];
}
