/**
 * Meshes as they are kept: binary glTF 2.0, compressed without loss (EXT_meshopt_compression), the mesh itself in the first
 * scene and coarser ones of it, which share its corners, in a scene each after it.
 */
import { Document, NodeIO, type Accessor, type Primitive, type Root } from '@gltf-transform/core';
import { EXTMeshoptCompression } from '@gltf-transform/extensions';
import type { MeshMass } from '@stem-trace/core';
import { MeshoptDecoder, MeshoptEncoder, MeshoptSimplifier } from 'meshoptimizer';

/** What is kept of a file's geometry as a whole, beside its triangles: extras of the glTF's root. */
export interface MeshExtras {
  readonly mass: MeshMass;
  /** How far the triangles may lie from the true shape, millimetres. */
  readonly deflectionMm: number;
  readonly triangles: number;
}

/** One colour's triangles. */
export interface MeshPiece {
  /** Metres, y up (glTF 2.0, 3.4). */
  readonly positions: Float32Array<ArrayBuffer>;
  readonly normals?: Float32Array<ArrayBuffer>;
  /** Three a triangle. */
  readonly indices: Uint32Array<ArrayBuffer>;
  /** Triangles of each face of the boundary, the first and the last counted in. */
  readonly faces: readonly (readonly [first: number, last: number])[];
  readonly colour: readonly [red: number, green: number, blue: number];
}

/** How many triangles a coarser mesh should have, of those of the true one. */
const LEVELS = [0.25, 0.06, 0.015] as const;
/** As large a part of the size of a piece may be lost; beyond that it is another shape. */
const MOST_ERROR = 0.1;
/** What is drawn in no time needs nothing coarser. */
const FEWEST_TRIANGLES = 200;

/** `O(triangles × log triangles)` */
export async function packGlb(pieces: readonly MeshPiece[], extras: MeshExtras): Promise<Uint8Array> {
  await Promise.all([MeshoptEncoder.ready, MeshoptSimplifier.ready]);
  const document = new Document();
  document.getRoot().getAsset().generator = 'Stem Trace';
  document.getRoot().setExtras({ ...extras });
  // No reordering and no filters: faces stay ranges of triangles, and measures those of the kernel.
  document
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
  const writer = new PieceWriter(document);
  const fine = document.createScene('true');
  document.getRoot().setDefaultScene(fine);
  const written = pieces.map((piece) => ({ piece, primitive: writer.write(piece) }));
  for (const { primitive } of written)
    fine.addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)));
  for (const share of LEVELS) {
    const coarser = written.map(({ piece, primitive }) => writer.coarser(piece, primitive, share));
    if (coarser.every(({ isCoarser }) => !isCoarser)) break;
    const scene = document.createScene('coarser').setExtras({
      errorMm: coarser.reduce((most, { errorMm }) => Math.max(most, errorMm), 0),
    });
    for (const { primitive } of coarser)
      scene.addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)));
  }
  return (await packingIo()).writeBinary(document);
}

/** The same mesh for whoever knows nothing of how it is kept: nothing compressed, nothing coarser. `O(bytes)` */
export async function plainGlb(packed: Uint8Array): Promise<Uint8Array> {
  const document = await readPacked(packed);
  const root = document.getRoot();
  const kept = new Set(finePrimitives(root).map((primitive) => primitive.getIndices()));
  for (const scene of root.listScenes().slice(1)) {
    for (const node of scene.listChildren()) {
      for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
        const indices = primitive.getIndices();
        if (!kept.has(indices)) indices?.dispose();
        primitive.dispose();
      }
      node.getMesh()?.dispose();
      node.dispose();
    }
    scene.dispose();
  }
  for (const extension of root.listExtensionsUsed()) extension.dispose();
  return new NodeIO().writeBinary(document);
}

export async function readPacked(packed: Uint8Array): Promise<Document> {
  return (await packingIo()).readBinary(packed);
}

/** Primitives of the mesh itself. */
export function finePrimitives(root: Root): Primitive[] {
  return (root.listScenes()[0]?.listChildren() ?? []).flatMap(
    (node) => node.getMesh()?.listPrimitives() ?? [],
  );
}

/** What the root of a packed mesh says, from its first bytes alone (glTF 2.0, 4.4); undefined where it is none of ours. */
export function extrasIn(json: string): MeshExtras | undefined {
  const { extras } = JSON.parse(json) as { extras?: Partial<MeshExtras> };
  if (!extras?.mass || extras.triangles === undefined) return undefined;
  return { mass: extras.mass, deflectionMm: extras.deflectionMm ?? 0, triangles: extras.triangles };
}

async function packingIo(): Promise<NodeIO> {
  await Promise.all([MeshoptEncoder.ready, MeshoptDecoder.ready]);
  return new NodeIO()
    .registerExtensions([EXTMeshoptCompression])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder, 'meshopt.decoder': MeshoptDecoder });
}

/**
 * Whether the triangles enclose a body, seen from outside: at each edge as many go one way as the other, whichever corners
 * stand in the same place for what they belong to. Then nobody sees a triangle from behind. `O(triangles)`
 */
export function isClosed(positions: Float32Array<ArrayBuffer>, indices: Uint32Array<ArrayBuffer>): boolean {
  const place = MeshoptSimplifier.generatePositionRemap(positions, 3);
  const corners = positions.length / 3;
  const ways = new Map<number, number>();
  let volume = 0;
  for (let first = 0; first + 2 < indices.length; first += 3) {
    const triangle = [0, 1, 2].map((at) => place[indices[first + at] ?? 0] ?? 0);
    for (let at = 0; at < 3; at++) {
      const [from, to] = [triangle[at] ?? 0, triangle[(at + 1) % 3] ?? 0];
      const edge = Math.min(from, to) * corners + Math.max(from, to);
      ways.set(edge, (ways.get(edge) ?? 0) + Math.sign(to - from));
    }
    volume += sixVolumes(positions, triangle);
  }
  return volume > 0 && [...ways.values()].every((sum) => sum === 0);
}

function sixVolumes(positions: Float32Array<ArrayBuffer>, [a = 0, b = 0, c = 0]: readonly number[]): number {
  const at = (corner: number, axis: number): number =>
    (positions[corner * 3 + axis] ?? 0) - (positions[axis] ?? 0);
  return (
    at(a, 0) * (at(b, 1) * at(c, 2) - at(b, 2) * at(c, 1)) -
    at(a, 1) * (at(b, 0) * at(c, 2) - at(b, 2) * at(c, 0)) +
    at(a, 2) * (at(b, 0) * at(c, 1) - at(b, 1) * at(c, 0))
  );
}

class PieceWriter {
  private readonly buffer;

  constructor(private readonly document: Document) {
    this.buffer = document.createBuffer();
  }

  write({ positions, normals, indices, faces, colour: [red, green, blue] }: MeshPiece): Primitive {
    const material = this.document
      .createMaterial()
      .setBaseColorFactor([red, green, blue, 1])
      .setMetallicFactor(0.1)
      .setRoughnessFactor(0.65);
    const primitive = this.document
      .createPrimitive()
      .setMaterial(material)
      .setExtras({ faces, isClosed: isClosed(positions, indices) })
      .setIndices(this.accessor('SCALAR', indices))
      .setAttribute('POSITION', this.accessor('VEC3', positions));
    return normals ? primitive.setAttribute('NORMAL', this.accessor('VEC3', normals)) : primitive;
  }

  /** With the corners of the true one; with its triangles, too, where fewer would be another shape. */
  coarser(
    { positions, indices }: MeshPiece,
    fine: Primitive,
    share: number,
  ): { readonly primitive: Primitive; readonly errorMm: number; readonly isCoarser: boolean } {
    const wanted = Math.floor((indices.length * share) / 3) * 3;
    const [fewer, error] =
      indices.length / 3 < FEWEST_TRIANGLES
        ? [indices, 0]
        : MeshoptSimplifier.simplify(indices, positions, 3, wanted, MOST_ERROR);
    const isCoarser = fewer.length > 0 && fewer.length < indices.length * 0.7;
    const primitive = this.document
      .createPrimitive()
      .setMaterial(fine.getMaterial())
      .setIndices(isCoarser ? this.accessor('SCALAR', new Uint32Array(fewer)) : fine.getIndices());
    for (const name of fine.listSemantics()) primitive.setAttribute(name, fine.getAttribute(name));
    const errorMm = isCoarser ? error * MeshoptSimplifier.getScale(positions, 3) * 1000 : 0;
    return { primitive, errorMm, isCoarser };
  }

  private accessor(
    type: 'SCALAR' | 'VEC3',
    array: Uint32Array<ArrayBuffer> | Float32Array<ArrayBuffer>,
  ): Accessor {
    return this.document.createAccessor().setType(type).setArray(array).setBuffer(this.buffer);
  }
}
