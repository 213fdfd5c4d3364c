import { isDeepStrictEqual } from 'node:util';
import { effectivityOf, type ChangeContents, type ItemKind } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { json, listOf, orNull, readRows, text, word } from '../database/read-rows.js';
import { LABEL } from '../store/item-row.js';
import type { ChangeFiles } from './change-contents.js';

/**
 * What changes say in rows, held against their files. Files that cannot be read are told elsewhere.
 *
 * @returns numbers of those that disagree. `O(changes)` reads of files
 */
export async function checkChanges(
  manager: Pick<EntityManager, 'query'>,
  files: ChangeFiles,
): Promise<readonly string[]> {
  const changes = await readRows(
    manager,
    {
      ...{ number: text, label: text, kind: word<ItemKind>(), sha256: text, until: text, urgency: text },
      ...{ spans: orNull(json<unknown>()), lines: listOf(text), tasks: listOf(text) },
    },
    `SELECT i.number, ${LABEL} AS label, i.kind, v.sha256, coalesce(c.until::text, '') AS until, c.urgency, c.spans,
       ARRAY(SELECT relation || ' ' || item_id FROM change_line WHERE change_id = i.id) AS lines,
       ARRAY(SELECT key || ' ' || what || ' ' || coalesce(until::text, '') FROM change_task WHERE change_id = i.id) AS tasks
     FROM change c JOIN item i ON i.id = c.item_id JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
     ORDER BY i.number_key`,
  );
  const wrong: string[] = [];
  for (const { spans, ...change } of changes) {
    const contents = await files.read(change).catch(() => undefined);
    if (!contents) continue;
    const { until, urgency, lines, tasks } = change;
    const rows = { until, urgency, lines: sorted(lines), tasks: sorted(tasks) };
    // What was written before rows said it is not looked at: it is filled in.
    const isTold = spans === null || isDeepStrictEqual(spans, effectivityOf(contents.takesEffect) ?? {});
    if (!isTold || !isDeepStrictEqual(rows, said(contents))) wrong.push(change.number);
  }
  return wrong;
}

function said({ until, urgency, lines, tasks }: ChangeContents): object {
  return {
    ...{ until, urgency },
    lines: sorted(lines.map(({ relation, itemId }) => `${relation} ${itemId}`)),
    tasks: sorted(tasks.map(({ key, what, until: day }) => `${key} ${what} ${day}`)),
  };
}

function sorted(all: readonly string[]): string[] {
  return [...new Set(all)].sort();
}
