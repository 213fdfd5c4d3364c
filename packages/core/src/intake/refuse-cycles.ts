import type { Draft } from './draft.js';

/**
 * Files that contain one another in a circle cannot come in; the chain is named. A drawing may show what names the drawing:
 * what it shows is not what it is made of.
 */
export function refuseCycles(byKey: ReadonlyMap<string, Draft>): void {
  const done = new Set<string>();
  for (const start of byKey.keys()) {
    const path: { key: string; next: number }[] = done.has(start) ? [] : [{ key: start, next: 0 }];
    const onPath = new Set<string>([start]);
    for (let top = path.at(-1); top; top = path.at(-1)) {
      const link = byKey.get(top.key)?.links[top.next++];
      if (link && (link.relation === 'depicts' || link.relation === 'describes')) continue;
      if (link === undefined) {
        done.add(top.key);
        onPath.delete(top.key);
        path.pop();
      } else if (link.target.kind === 'row' && onPath.has(link.target.key)) {
        breakCycle(
          [
            ...path.slice(path.findIndex(({ key }) => link.target.kind === 'row' && key === link.target.key)),
          ].map(({ key }) => key),
          byKey,
        );
      } else if (link.target.kind === 'row' && !done.has(link.target.key)) {
        onPath.add(link.target.key);
        path.push({ key: link.target.key, next: 0 });
      }
    }
  }
}

function breakCycle(keys: readonly string[], byKey: ReadonlyMap<string, Draft>): void {
  const drafts = keys.flatMap((key) => byKey.get(key) ?? []);
  const chain = [...drafts, drafts[0]].map((draft) => draft?.number).join(' › ');
  const reason = `contains itself: ${chain}`;
  for (const draft of drafts) draft.status = { kind: 'problem', line: 0, reason };
  for (const draft of byKey.values()) {
    if (draft.carrierKey !== undefined && keys.includes(draft.carrierKey))
      draft.status = { kind: 'problem', line: 0, reason };
    draft.links = draft.links.map((link) =>
      link.target.kind === 'row' && keys.includes(link.target.key)
        ? { ...link, target: { kind: 'gap' } }
        : link,
    );
  }
}
