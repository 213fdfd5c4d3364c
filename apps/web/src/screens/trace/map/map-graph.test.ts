import type { NetNodeRow } from '@stem-trace/contract';
import { Net } from '@stem-trace/core';
import { describe, expect, it } from 'vitest';
import type { OpenNet } from '../../../api/net.js';
import { mapGraph, MOST_MAP_NODES } from './map-graph.js';

function node(number: string): NetNodeRow {
  return {
    number,
    name: number,
    kind: 'part',
    version: 'A/1',
    state: 'draft',
    heldBy: null,
    isGap: false,
    isHidden: false,
    depth: 0,
  };
}

function open(numbers: readonly string[], links: readonly (readonly [number, number])[]): OpenNet {
  return {
    net: new Net(
      numbers.map(node),
      links.map(([from, to]) => ({ from, to, quantity: 1, behind: 0 })),
    ),
    papers: [{ number: 'DWG', name: 'd', kind: 'drawing', state: 'draft', relation: 'depicts', of: 1 }],
    hidden: 0,
  };
}

const ALONE = open(['F'], []);
const NONE = { folded: new Set<string>(), papers: false };
const numbers = (graph: ReturnType<typeof mapGraph>): string[] =>
  graph.nodes.map(({ item }) => item.number).sort();

describe('the map', () => {
  it('joins both sides at the focus', () => {
    const made = open(
      ['F', 'a', 'b'],
      [
        [0, 1],
        [1, 2],
        [0, 2],
      ],
    );
    const used = open(['F', 'u'], [[1, 0]]);
    const graph = mapGraph(used, made, NONE);
    expect(numbers(graph)).toEqual(['F', 'a', 'b', 'u']);
    expect(graph.edges.map(({ from, to }) => `${from}>${to}`).sort()).toEqual([
      'F@A/1>a@A/1',
      'F@A/1>b@A/1',
      'a@A/1>b@A/1',
      'u@A/1>F@A/1',
    ]);
    expect(graph.nodes.filter(({ role }) => role === 'focus')).toHaveLength(1);
  });

  it('folds a branch but keeps what something else leads to', () => {
    const made = open(
      ['F', 'a', 'own', 'shared', 'c'],
      [
        [0, 1],
        [1, 2],
        [1, 3],
        [0, 4],
        [4, 3],
      ],
    );
    const graph = mapGraph(ALONE, made, { ...NONE, folded: new Set(['a@A/1']) });
    expect(numbers(graph)).toEqual(['F', 'a', 'c', 'shared']);
    expect(graph.nodes.find(({ item }) => item.number === 'a')).toMatchObject({
      isFolded: true,
      canFold: true,
    });
  });

  it('puts drawings beside what they show', () => {
    const graph = mapGraph(ALONE, open(['F', 'a'], [[0, 1]]), { ...NONE, papers: true });
    expect(graph.edges.find(({ isPaper }) => isPaper)).toMatchObject({ from: 'a@A/1', to: 'paper DWG' });
  });

  it('takes the nearest where there are too many, and says how many are left out', () => {
    const many = Array.from({ length: 3000 }, (_, at) => `p${at}`);
    const made = open(
      ['F', ...many],
      many.map((_, at) => [0, at + 1] as const),
    );
    const graph = mapGraph(ALONE, made, NONE);
    expect(graph.nodes).toHaveLength(MOST_MAP_NODES);
    expect(graph.nodes.length + graph.leftOut).toBe(3001);
  });
});
