/** A whole assembly as one binary glTF 2.0, for any program that shows one: its parts' meshes, each once, at all places. */
import { Document, NodeIO, type Buffer, type Mesh, type Node, type Primitive } from '@gltf-transform/core';
import type { Placement } from '@stem-trace/core';
import { finePrimitives, readPacked } from './packed-glb.js';

export interface GlbUse {
  /** Index of the use that it lies in; -1 for the root. */
  readonly parent: number;
  readonly name: string;
}

export interface GlbPart {
  readonly packed: Uint8Array;
  /** In the root's frame, millimetres. */
  readonly at: readonly Placement[];
  /** Of each place, the use that it is. */
  readonly nodes: readonly number[];
}

/**
 * Nodes stand as the structure does and are called what it calls them; only those that have a shape are moved, from the root's frame,
 * so that nothing is added up twice.
 *
 * @returns metres, y up (glTF 2.0, 3.4). `O(triangles + uses)`
 */
export async function sceneGlb(
  name: string,
  uses: readonly GlbUse[],
  parts: readonly GlbPart[],
): Promise<Uint8Array> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Stem Trace';
  const buffer = document.createBuffer();
  const scene = document.createScene(name);
  document.getRoot().setDefaultScene(scene);
  const root = document.createNode(name);
  scene.addChild(root);
  const nodes: Node[] = [];
  for (const use of uses) {
    const node = document.createNode(use.name);
    (nodes[use.parent] ?? root).addChild(node);
    nodes.push(node);
  }
  for (const { packed, at, nodes: of } of parts) {
    const mesh = await copied(document, buffer, packed);
    for (const [place, placement] of at.entries()) {
      const shape = document.createNode('shape').setMesh(mesh).setMatrix(matrixOf(placement));
      (nodes[of[place] ?? -1] ?? root).addChild(shape);
    }
  }
  return new NodeIO().writeBinary(document);
}

async function copied(document: Document, buffer: Buffer, packed: Uint8Array): Promise<Mesh> {
  const mesh = document.createMesh();
  for (const primitive of finePrimitives((await readPacked(packed)).getRoot()))
    mesh.addPrimitive(copyOf(document, buffer, primitive));
  return mesh;
}

function copyOf(document: Document, buffer: Buffer, from: Primitive): Primitive {
  const colour = from.getMaterial()?.getBaseColorFactor() ?? [0.7, 0.7, 0.7, 1];
  const material = document
    .createMaterial()
    .setBaseColorFactor(colour)
    .setMetallicFactor(0.1)
    .setRoughnessFactor(0.65);
  const to = document.createPrimitive().setMaterial(material);
  const indices = from.getIndices()?.getArray();
  if (indices)
    to.setIndices(document.createAccessor().setType('SCALAR').setArray(indices.slice()).setBuffer(buffer));
  for (const semantic of from.listSemantics()) {
    const accessor = from.getAttribute(semantic);
    const array = accessor?.getArray();
    if (!accessor || !array) continue;
    to.setAttribute(
      semantic,
      document.createAccessor().setType(accessor.getType()).setArray(array.slice()).setBuffer(buffer),
    );
  }
  return to;
}

/**
 * A placement, rows of three by four in millimetres with z up, as glTF's columns in metres with y up: x stays, y is z, z is -y.
 */
function matrixOf(placement: Placement): Parameters<Node['setMatrix']>[0] {
  const at = (row: number, column: number): number => placement[row * 4 + column] ?? 0;
  // Rows and columns in the order x, z, -y, with the sign of the last turned.
  const axes = [
    [0, 1],
    [2, 1],
    [1, -1],
  ] as const;
  const column = ([from, sign]: readonly [number, number]): number[] => [
    ...axes.map(([to, turned]) => at(to, from) * sign * turned),
    0,
  ];
  const moved = axes.map(([to, turned]) => (at(to, 3) * turned) / 1000);
  return [...axes.flatMap(column), ...moved, 1] as unknown as Parameters<Node['setMatrix']>[0];
}
