import fc from 'fast-check';
import { expect, it } from 'vitest';
import { StructureGraph, type LinkEdge } from '../structure/graph.js';
import { NOT_RELEASED, type VersionNode } from '../model/version.js';
import { invertRigid, multiply } from './placement.js';
import { sceneOf, type SceneNode } from './scene.js';

const shift = (x: number, y = 0): number[] => [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, 0];
const version = (id: string): VersionNode => ({
  id,
  itemId: `item ${id}`,
  ordinal: 1,
  createdAtMs: 0,
  releasedAtMs: NOT_RELEASED,
});
const link = (parent: string, child: string, at: readonly number[][], carried = false): LinkEdge => ({
  id: `${parent}>${child}`,
  parentVersion: parent,
  targetItem: `item ${child}`,
  targetVersion: child,
  quantity: at.length,
  carried,
  targetText: child,
  occurrences: at.map((placement) => ({ name: '', placement })),
});

function scene(links: readonly LinkEdge[], nodes: Readonly<Record<string, SceneNode>>): string[] {
  const graph = new StructureGraph(Object.keys(nodes).map(version), links);
  return sceneOf(graph, 'top', { lens: { kind: 'recorded' }, nodeOf: (id) => nodes[id] })
    .files.flatMap(({ file, at }) => at.map((m) => `${file} ${m[3]},${m[7]}`))
    .sort();
}

const own = (id: string, isPart = false): SceneNode => ({ isPart, file: id });

it('places parts along every chain', () => {
  const links = [link('top', 'sub', [shift(100), shift(200)]), link('sub', 'nut', [shift(1), shift(2, 5)])];
  expect(scene(links, { top: own('top'), sub: own('sub'), nut: own('nut', true) })).toEqual([
    'nut 101,0',
    'nut 102,5',
    'nut 201,0',
    'nut 202,5',
  ]);
});

it('draws what lives in a file with the file, once a place', () => {
  const links = [
    link('top', 'file', [shift(10), shift(20)]),
    link('file', 'in', [shift(1), shift(2)], true),
    link('in', 'deep', [shift(3)], true),
  ];
  const nodes = {
    top: own('top'),
    file: own('file'),
    in: { isPart: false, file: 'file' },
    deep: { isPart: true, file: 'file' },
  };
  expect(scene(links, nodes)).toEqual(['file 10,0', 'file 20,0']);
});

it('goes through assemblies that live in a file to parts outside it', () => {
  const links = [link('top', 'in', [shift(10)], true), link('in', 'part', [shift(1)])];
  expect(
    scene(links, { top: own('top'), in: { isPart: false, file: 'top' }, part: own('part', true) }),
  ).toEqual(['part 11,0']);
});

it('a placement times its inverse changes nothing', () => {
  const angle = fc.double({ min: 0, max: 6.28, noNaN: true });
  const length = fc.double({ min: -1000, max: 1000, noNaN: true });
  fc.assert(
    fc.property(angle, length, length, length, (a, x, y, z) => {
      const m = [Math.cos(a), -Math.sin(a), 0, x, Math.sin(a), Math.cos(a), 0, y, 0, 0, 1, z];
      multiply(m, invertRigid(m)).forEach((value, index) =>
        expect(value).toBeCloseTo(index % 5 === 0 ? 1 : 0, 6),
      );
    }),
  );
});
