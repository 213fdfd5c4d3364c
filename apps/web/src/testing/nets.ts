/** Answers about structure, short to write. */
import type { NetAnswer, NetNodeRow } from '@stem-trace/contract';

export function netNode(number: string, more: Partial<NetNodeRow> = {}): NetNodeRow {
  return {
    number,
    name: `name of ${number}`,
    kind: 'part',
    version: 'A/1',
    state: 'released',
    heldBy: null,
    isGap: false,
    isHidden: false,
    depth: 0,
    ...more,
  };
}

export function netAnswer(
  nodes: readonly NetNodeRow[],
  links: NetAnswer['links'],
  more: Partial<NetAnswer> = {},
): NetAnswer {
  return { lens: 'recorded', nodes, links, configurations: [], papers: [], hidden: 0, ...more };
}
