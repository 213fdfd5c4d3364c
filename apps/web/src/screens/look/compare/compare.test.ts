import type { SceneAnswer, SceneNodeView, TraitsAnswer } from '@stem-trace/contract';
import { BoxGeometry, Mesh } from 'three';
import { describe, expect, it } from 'vitest';
import { lookMesh } from '../model/look-mesh.js';
import { looksOf } from './appearance.js';
import { rowsOf } from './difference-list.js';
import { compared, together } from './pairs.js';
import { shade, withColours } from './use-deviation.js';

const node = (parent: number, number: string): SceneNodeView => ({
  ...{ parent, number, name: '', kind: 'part', state: 'draft', use: '' },
});
/** Parts side by side below one root: number, file and where they stand. */
function scene(root: string, parts: readonly (readonly [string, string, number])[]): SceneAnswer {
  return {
    nodes: [node(-1, root), ...parts.map(([number]) => node(0, number))],
    meshes: parts.map(([, item, x], at) => ({
      ...{ item, nodes: [at + 1], at: [[1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0]] },
    })),
  };
}
const traits = (numbers: readonly (readonly [string, string])[]): TraitsAnswer => ({
  rows: numbers.map(([number, copiedFrom]) => ({
    ...{ number, copiedFrom, state: 'draft', behind: 0, holder: '', class: '', massKg: null },
    ...{ changedAt: '', lineage: 'own' },
  })),
  of: numbers.map((_, at) => at),
  origin: '',
});

/** Every file is a block of its own size, but for those of the same size. */
const model = (of: SceneAnswer, said?: TraitsAnswer, sizes: Readonly<Record<string, number>> = {}) => ({
  ...{ scene: of, traits: said },
  loaded: of.meshes.map(({ item }) =>
    lookMesh(
      [new Mesh(new BoxGeometry(1, 1, sizes[item] ?? item.charCodeAt(item.length - 1) + item.length))],
      0.01,
    ),
  ),
});

describe('two models', () => {
  const first = scene('S-1', [['A', 'A@A/1', 0], ['B', 'B@A/1', 10], ['C', 'C@A/1', 20]]); // prettier-ignore
  const second = scene('S-1', [['A', 'A@A/1', 0], ['B', 'B@A/2', 13], ['D', 'D@A/1', 20], ['E', 'E@A/1', 50]]); // prettier-ignore

  it('say what moved, what stands where something stood, and what is new', () => {
    const found = compared(model(first), model(second));
    expect(rowsOf(found, { first, second }).map(({ says }) => says)).toEqual([
      'D stands where C stood',
      'E is added',
      'B moved by 3 mm, and has another shape',
    ]);
    expect(looksOf(found, 'first').get(1)).toEqual({ kind: 'same', colour: undefined });
    expect(looksOf(found, 'second').get(4)?.colour?.getHexString()).toBe('1b59b3');
    expect(looksOf(found, 'first').size).toBe(3);
  });

  it('a copy is what it was copied from', () => {
    const variant = scene('V-1', [['V-A', 'V-A@A/1', 0], ['B', 'B@A/1', 10], ['C', 'C@A/1', 20]]); // prettier-ignore
    const said = traits([['V-1', 'S-1'], ['V-A', 'A'], ['B', ''], ['C', '']]); // prettier-ignore
    const found = compared(model(first), model(variant, said));
    const renamed = { 'A@A/1': 5, 'V-A@A/1': 5 };
    const same = compared(model(first, undefined, renamed), model(variant, said, renamed));
    expect(same.pairs.map(({ kind }) => kind)).toEqual(['same', 'same', 'same']);
    expect(rowsOf(found, { first, second: variant }).map(({ kind, says }) => [kind, says])).toEqual([
      ['changed', 'V-A (A before) has another shape'],
    ]);
  });

  it('are one scene whose uses keep their places', () => {
    const both = together(first, second);
    expect(both.nodes).toHaveLength(9);
    expect(both.nodes.slice(4).map(({ parent }) => parent)).toEqual([-1, 4, 4, 4, 4]);
    expect(both.meshes.flatMap(({ nodes }) => nodes)).toEqual([1, 2, 3, 5, 6, 7, 8]);
  });
});

describe('how far two shapes lie apart', () => {
  it('is seen in the colours of corners, part after part', () => {
    const mesh = lookMesh([new Mesh(new BoxGeometry()), new Mesh(new BoxGeometry())], 0.01);
    const corners = mesh.parts.map(({ geometry }) => geometry.getAttribute('position').count);
    const count = corners.reduce((sum, each) => sum + each);
    const ofCorners = new Float32Array(count).fill(0);
    ofCorners[count - 1] = 2;
    const shown = withColours(mesh, { ofCorners, mostMm: 1, at: [0, 0, 0], toleranceMm: 0.02 }, 2);
    const colours = shown.parts.map(({ geometry }) => geometry.getAttribute('color'));
    expect(colours.map(({ count: each }) => each)).toEqual(corners);
    expect(colours[1]?.getX((corners[1] ?? 0) - 1)).not.toBe(colours[0]?.getX(0));
    expect(mesh.parts[0]?.geometry.hasAttribute('color')).toBe(false);
  });

  it('is nothing within what the triangles may lie off', () => {
    const scale = { mostMm: 2, toleranceMm: 0.05 };
    expect(shade(0.05, scale).getHexString()).toBe(shade(0, scale).getHexString());
    expect(shade(2, scale).getHexString()).toBe('a33a5e');
    expect(shade(0.04, { mostMm: 0.04, toleranceMm: 0.05 }).getHexString()).toBe(
      shade(0, scale).getHexString(),
    );
  });
});
