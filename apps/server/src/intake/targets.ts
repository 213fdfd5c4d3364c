import type { LinkTarget } from '@stem-trace/core';

/** The version that a row stands for. */
export interface Target {
  readonly itemId: string;
  readonly versionId: string;
}

/** The version that a planned link records: the one that was seen where that is known. */
export function targetOf(target: LinkTarget, targets: ReadonlyMap<string, Target>): Target | undefined {
  if (target.kind === 'gap') return undefined;
  const found =
    target.kind === 'item'
      ? { itemId: target.item.id, versionId: target.item.newest.id }
      : targets.get(target.key);
  return found && target.seen !== undefined ? { ...found, versionId: target.seen } : found;
}
