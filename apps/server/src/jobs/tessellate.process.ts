import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { setPriority } from 'node:os';
import { describeShape, massOf, type MeshMass, type TriangleMesh } from '@stem-trace/core';
import { packGlb, type MeshPiece } from './packed-glb.js';
import { offer } from './process.js';
import type { TessellateTask, Tessellated } from './tessellate-pool.js';

interface KernelMesh {
  readonly color?: readonly [number, number, number];
  /** Triangles of each face of the boundary, the first and the last counted in. */
  readonly brep_faces?: readonly { readonly first: number; readonly last: number }[];
  readonly attributes: {
    readonly position: { readonly array: number[] };
    readonly normal?: { readonly array: number[] };
  };
  readonly index: { readonly array: number[] };
}

interface KernelNode {
  readonly name: string;
  /** Indices into the meshes. */
  readonly meshes: readonly number[];
  readonly children: readonly KernelNode[];
}

interface Kernel {
  ReadStepFile(
    content: Uint8Array,
    parameters: object | null,
  ): { success: boolean; root: KernelNode; meshes: KernelMesh[] };
}

// Whoever waits for an answer goes first.
setPriority(10);
offer(tessellate);

const load = createRequire(import.meta.url)('occt-import-js') as () => Promise<Kernel>;
let kernel: Promise<Kernel> | undefined;

/** Deviation of the mesh from the true shape, in millimetres and radians: fine enough to look at. */
const FINENESS = {
  linearUnit: 'millimeter',
  linearDeflectionType: 'bounding_box_ratio',
  linearDeflection: 0.002,
  angularDeflection: 0.4,
};

/** Makes a mesh of a STEP file's own geometry, with mass properties worked out from the mesh. */
async function tessellate({ file, names }: TessellateTask): Promise<Tessellated> {
  kernel ??= load();
  const result = (await kernel).ReadStepFile(await readFile(file), FINENESS);
  const wanted = names && result.success ? meshesOf(result.root, new Set(names)) : undefined;
  const meshes = result.success
    ? result.meshes.filter((mesh, at) => mesh.index.array.length > 0 && (wanted?.has(at) ?? true))
    : [];
  if (meshes.length === 0) return { kind: 'nothing' };
  const triangles = meshes.map((mesh): TriangleMesh => ({
    positions: mesh.attributes.position.array,
    indices: mesh.index.array,
  }));
  const mass = massOf(triangles);
  const glb = await packGlb(meshes.map(pieceOf), {
    ...{ mass, deflectionMm: deflectionOf(mass) },
    triangles: triangles.reduce((sum, { indices }) => sum + indices.length / 3, 0),
  });
  return { kind: 'mesh', glb, mass, shape: describeShape(triangles) };
}

/** The kernel takes its ratio of the mean edge of the box. */
function deflectionOf({ box: { min, max } }: MeshMass): number {
  return (FINENESS.linearDeflection * (max[0] - min[0] + max[1] - min[1] + max[2] - min[2])) / 3;
}

/** Meshes of the first node with one of the names, and of all below it; where it stands in its file. */
function meshesOf(root: KernelNode, names: ReadonlySet<string>): Set<number> {
  const found = new Set<number>();
  const waiting: { node: KernelNode; isWithin: boolean }[] = [{ node: root, isWithin: false }];
  for (let next = waiting.shift(); next; next = waiting.shift()) {
    const { node, isWithin } = next;
    if (!isWithin && found.size > 0) continue;
    const counts = isWithin || names.has(node.name);
    if (counts) for (const mesh of node.meshes) found.add(mesh);
    const below = node.children.map((child) => ({ node: child, isWithin: counts }));
    // What belongs to a find comes before the rest, so that one occurrence is taken and not all.
    if (counts) waiting.unshift(...below);
    else waiting.push(...below);
  }
  return found;
}

function pieceOf({ attributes, index, color, brep_faces: faces = [] }: KernelMesh): MeshPiece {
  return {
    positions: turned(attributes.position.array, 0.001),
    ...(attributes.normal ? { normals: turned(attributes.normal.array, 1) } : {}),
    indices: new Uint32Array(index.array),
    faces: faces.map(({ first, last }) => [first, last]),
    colour: color ?? [0.62, 0.68, 0.71],
  };
}

/** STEP has z up and millimetres here; glTF has y up and metres (glTF 2.0, 3.4). */
function turned(array: readonly number[], scale: number): Float32Array<ArrayBuffer> {
  const out = new Float32Array(array.length);
  for (let i = 0; i + 2 < array.length; i += 3) {
    out[i] = (array[i] ?? 0) * scale;
    out[i + 1] = (array[i + 2] ?? 0) * scale;
    out[i + 2] = -(array[i + 1] ?? 0) * scale;
  }
  return out;
}
