/** Every use of every file's mesh, drawn at once: a part is one object however often it stands there. */
import type { SceneAnswer } from '@stem-trace/contract';
import type { Point } from '@stem-trace/core/look';
import {
  Box3,
  type Color,
  EdgesGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  type Vector3,
  type Intersection,
  type Object3D,
  type Plane,
  type Raycaster,
} from 'three';
import { placeMatrix } from '../../../pictures/place-matrix.js';
import { DrawnPart, type Eye } from './drawn-part.js';
import { toDrawn } from './frames.js';
import type { LookMesh } from './look-mesh.js';
import { WaitingBoxes } from './waiting-boxes.js';

/** What each use looks like; uses are places in the scene's list of nodes. */
export interface Appearance {
  /** 1 is solid, 0 is not there, between them it is glass. */
  readonly opacityOf: (node: number) => number;
  /** Undefined for the colour that the file says. */
  readonly colourOf: (node: number) => Color | undefined;
  /** How far it is moved from where it stands, millimetres; undefined where nothing is. */
  readonly offsetOf?: (node: number) => Point | undefined;
}

interface PlacedEdges {
  readonly place: number;
  readonly node: number;
  readonly lines: LineSegments;
}

/** What there is of one file. */
interface DrawnMesh {
  readonly own: LookMesh;
  readonly parts: readonly DrawnPart[];
  readonly edges: readonly PlacedEdges[];
}

/** Places whose edges are drawn; each is an object of its own. */
const MOST_EDGED = 800;
/** Edges where faces meet at more than this are what an engineer looks for. */
const SHARP_DEGREES = 25;
/** Nobody sees that something lies off by less, in pixels. */
const UNSEEN_PIXELS = 0.7;
const MOST_DOUBLINGS = 16;

/** What a hit of the ray means. */
export interface HitUse {
  readonly mesh: number;
  readonly place: number;
  readonly node: number;
  /** Of the mesh's body. */
  readonly triangle: number;
  readonly point: Vector3;
}

export class DrawnParts {
  readonly group = new Group();
  private readonly drawn = new Map<number, DrawnMesh>();
  private readonly boxes: WaitingBoxes;
  private readonly edgeMaterial = new LineBasicMaterial({ color: 0x22313a });
  private readonly hasEdges: boolean;
  private clips: Plane[] = [];
  private looks: Appearance = { opacityOf: () => 1, colourOf: () => undefined };

  constructor(private readonly placed: SceneAnswer['meshes']) {
    this.hasEdges = placed.reduce((sum, { at }) => sum + at.length, 0) <= MOST_EDGED;
    this.boxes = new WaitingBoxes(placed);
    this.group.add(this.boxes.object);
  }

  /** What there is by now, or is another by now. Wants `show` afterwards. @returns meshes that are new */
  put(meshes: readonly (LookMesh | undefined)[]): number[] {
    return meshes.flatMap((own, mesh) => {
      const before = this.drawn.get(mesh);
      if (!own || before?.own === own) return [];
      if (before) this.take(before);
      const made = this.made(mesh, own);
      this.drawn.set(mesh, made);
      this.group.add(...objectsOf(made));
      return [mesh];
    });
  }

  /** `O(uses)` */
  show(looks: Appearance): void {
    this.looks = looks;
    for (const [mesh, { parts, edges, own }] of this.drawn) {
      const { nodes = [] } = this.placed[mesh] ?? {};
      const places = nodes.map((node, place) => ({
        ...{ opacity: looks.opacityOf(node), colour: looks.colourOf(node) },
        stands: this.standsAt(mesh, place),
      }));
      for (const part of parts) part.show(places, own.bounds);
      for (const { place, node, lines } of edges) {
        lines.visible = looks.opacityOf(node) >= 1;
        if (lines.visible) lines.matrix.copy(this.standsAt(mesh, place));
      }
    }
    this.boxes.show((mesh, place, node) =>
      this.drawn.has(mesh) || looks.opacityOf(node) <= 0 ? undefined : this.standsAt(mesh, place),
    );
  }

  clip(planes: Plane[]): void {
    this.clips = planes;
    for (const { parts } of this.drawn.values()) for (const part of parts) part.clip(planes);
    this.edgeMaterial.clippingPlanes = planes;
    this.boxes.clip(planes);
  }

  /**
   * As coarse as nobody can see from there; coarser, where that would still be more triangles than are wanted. `O(uses)`
   */
  refine(eye: Eye, most = Infinity): void {
    const parts = [...this.drawn.values()].flatMap((each) => each.parts);
    for (const part of parts) part.lookFrom(eye);
    let pixels = UNSEEN_PIXELS;
    for (let doublings = 0; doublings < MOST_DOUBLINGS; doublings++, pixels *= 2) {
      const triangles = parts.reduce((sum, part) => sum + part.coarsen(pixels), 0);
      if (triangles <= most) return;
    }
  }

  /** What a ray meets, the nearest first, on the meshes themselves; glass as well. */
  hits(raycaster: Raycaster): HitUse[] {
    const parts = [...this.drawn].flatMap(([mesh, each]) => each.parts.map((part) => ({ mesh, part })));
    const found = parts.flatMap(({ mesh, part }) => part.hits(raycaster).map((hit) => ({ mesh, part, hit })));
    return found
      .sort((a, b) => a.hit.distance - b.hit.distance)
      .flatMap(({ mesh, part, hit }) => this.useOf(mesh, part, hit));
  }

  /** Box around some uses, or around all that is shown, where they are drawn. */
  boundsOf(isWanted: (node: number) => boolean): Box3 {
    const bounds = new Box3();
    this.eachUse((mesh, place, node) => {
      const own = this.ownBounds(mesh);
      if (own && isWanted(node)) bounds.union(own.clone().applyMatrix4(this.standsAt(mesh, place)));
    });
    return bounds;
  }

  /** Of a mesh by itself; undefined where nobody knows it yet. */
  ownBounds(mesh: number): Box3 | undefined {
    return this.drawn.get(mesh)?.own.bounds ?? this.boxes.boundsOf(mesh);
  }

  meshOf(mesh: number): LookMesh | undefined {
    return this.drawn.get(mesh)?.own;
  }

  eachUse(call: (mesh: number, place: number, node: number) => void): void {
    this.placed.forEach(({ at, nodes }, mesh) =>
      at.forEach((_, place) => call(mesh, place, nodes[place] ?? -1)),
    );
  }

  isShown(node: number): boolean {
    return this.looks.opacityOf(node) > 0;
  }

  /** Where a use is drawn. */
  standsAt(mesh: number, place: number): Matrix4 {
    const { at = [], nodes = [] } = this.placed[mesh] ?? {};
    const stands = placeMatrix(at[place] ?? []);
    const offset = this.looks.offsetOf?.(nodes[place] ?? -1);
    return offset ? stands.premultiply(new Matrix4().setPosition(toDrawn(offset))) : stands;
  }

  end(): void {
    for (const each of this.drawn.values()) this.take(each);
    this.drawn.clear();
    this.boxes.end();
    this.edgeMaterial.dispose();
  }

  private made(mesh: number, own: LookMesh): DrawnMesh {
    const { at = [], nodes = [] } = this.placed[mesh] ?? {};
    const parts = own.parts.map((part) => new DrawnPart(part, at.length));
    for (const part of parts) part.clip(this.clips);
    const edges = this.hasEdges
      ? own.parts.flatMap((part) => {
          const sharp = (part.edges ??= new EdgesGeometry(part.geometry, SHARP_DEGREES));
          return at.map((_, place) => {
            const lines = new LineSegments(sharp, this.edgeMaterial);
            lines.matrixAutoUpdate = false;
            return { place, node: nodes[place] ?? -1, lines };
          });
        })
      : [];
    return { own, parts, edges };
  }

  private take(drawn: DrawnMesh): void {
    this.group.remove(...objectsOf(drawn));
    for (const part of drawn.parts) part.end();
  }

  private useOf(mesh: number, part: DrawnPart, { instanceId, faceIndex, point }: Intersection): HitUse[] {
    if (instanceId === undefined) return [];
    const node = this.placed[mesh]?.nodes[instanceId] ?? -1;
    return [{ mesh, place: instanceId, node, triangle: part.firstTriangle + (faceIndex ?? 0), point }];
  }
}

function objectsOf({ parts, edges }: DrawnMesh): Object3D[] {
  return [...parts.flatMap(({ objects }) => objects), ...edges.map(({ lines }) => lines)];
}
