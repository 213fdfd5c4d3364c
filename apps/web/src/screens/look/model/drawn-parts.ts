/** Every use of every file's mesh, drawn at once: a part is one object however often it stands there. */
import type { SceneAnswer } from '@stem-trace/contract';
import type { Point } from '@stem-trace/core/look';
import {
  Box3,
  Color,
  DoubleSide,
  EdgesGeometry,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  MeshStandardMaterial,
  type BufferGeometry,
  type Object3D,
  type Plane,
} from 'three';
import { placeMatrix } from '../../../pictures/place-matrix.js';
import { toDrawn } from './frames.js';
import type { LookMesh } from './look-mesh.js';

/** What each use looks like; uses are places in the scene's list of nodes. */
export interface Appearance {
  /** 1 is solid, 0 is not there, between them it is glass. */
  readonly opacityOf: (node: number) => number;
  /** Undefined for the colour that the file says. */
  readonly colourOf: (node: number) => Color | undefined;
  /** How far it is moved from where it stands, millimetres; undefined where nothing is. */
  readonly offsetOf?: (node: number) => Point | undefined;
}

type Instanced = InstancedMesh<BufferGeometry, MeshStandardMaterial>;

interface Drawn {
  readonly mesh: number;
  readonly firstTriangle: number;
  readonly solid: Instanced;
  readonly glass: Instanced;
  readonly colour: Color;
}

interface PlacedEdges {
  readonly mesh: number;
  readonly place: number;
  readonly node: number;
  readonly lines: LineSegments;
}

const GONE = new Matrix4().makeScale(0, 0, 0);
/** Places whose edges are drawn; each is an object of its own. */
const MOST_EDGED = 800;
/** Edges where faces meet at more than this are what an engineer looks for. */
const SHARP_DEGREES = 25;

/** What a hit of the ray means. */
export interface HitUse {
  readonly mesh: number;
  readonly place: number;
  readonly node: number;
  /** Of the mesh's body. */
  readonly triangle: number;
}

export class DrawnParts {
  private readonly drawn: readonly Drawn[];
  private readonly edges: readonly PlacedEdges[];
  private readonly edgeMaterial = new LineBasicMaterial({ color: 0x22313a });
  private looks: Appearance = { opacityOf: () => 1, colourOf: () => undefined };

  constructor(
    private readonly placed: SceneAnswer['meshes'],
    private readonly meshes: readonly (LookMesh | undefined)[],
  ) {
    this.drawn = placed.flatMap(({ at }, mesh) => drawnOf(meshes[mesh], { mesh, count: at.length }));
    this.edges = this.edgesOf();
  }

  get objects(): readonly Object3D[] {
    return [
      ...this.drawn.flatMap(({ solid, glass }) => [solid, glass]),
      ...this.edges.map(({ lines }) => lines),
    ];
  }

  /** `O(uses)` */
  show(looks: Appearance): void {
    this.looks = looks;
    const colour = new Color();
    for (const { mesh, solid, glass, colour: own } of this.drawn) {
      const { at = [], nodes = [] } = this.placed[mesh] ?? {};
      let glassy = 0;
      at.forEach((_, place) => {
        const node = nodes[place] ?? -1;
        const opacity = looks.opacityOf(node);
        const stands = opacity > 0 ? this.standsAt(mesh, place) : GONE;
        if (opacity > 0 && opacity < 1) glassy = Math.max(glassy, opacity);
        solid.setMatrixAt(place, opacity >= 1 ? stands : GONE);
        glass.setMatrixAt(place, opacity > 0 && opacity < 1 ? stands : GONE);
        colour.copy(looks.colourOf(node) ?? own);
        solid.setColorAt(place, colour);
        glass.setColorAt(place, colour);
      });
      glass.visible = glassy > 0;
      glass.material.opacity = glassy;
      for (const instanced of [solid, glass]) {
        instanced.instanceMatrix.needsUpdate = true;
        if (instanced.instanceColor) instanced.instanceColor.needsUpdate = true;
        instanced.computeBoundingSphere();
      }
    }
    for (const { mesh, place, node, lines } of this.edges) {
      lines.visible = looks.opacityOf(node) >= 1;
      if (lines.visible) lines.matrix.copy(this.standsAt(mesh, place));
    }
  }

  clip(planes: Plane[]): void {
    for (const { solid, glass } of this.drawn)
      for (const { material } of [solid, glass]) material.clippingPlanes = planes;
    this.edgeMaterial.clippingPlanes = planes;
  }

  /** What can be picked: all that is solid, and glass where nothing else is shown. */
  get pickable(): readonly Object3D[] {
    return this.drawn.flatMap(({ solid, glass }) => (glass.visible ? [solid, glass] : solid));
  }

  hit(object: Object3D, place: number | undefined, face: number): HitUse | undefined {
    const drawn = this.drawn.find(({ solid, glass }) => solid === object || glass === object);
    if (!drawn || place === undefined) return undefined;
    const node = this.placed[drawn.mesh]?.nodes[place] ?? -1;
    return { mesh: drawn.mesh, place, node, triangle: drawn.firstTriangle + face };
  }

  /** Box around some uses, or around all that is shown, where they are drawn. */
  boundsOf(isWanted: (node: number) => boolean): Box3 {
    const bounds = new Box3();
    this.eachUse((mesh, place, node) => {
      const own = this.meshes[mesh]?.bounds;
      if (own && isWanted(node)) bounds.union(own.clone().applyMatrix4(this.standsAt(mesh, place)));
    });
    return bounds;
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
    for (const { solid, glass } of this.drawn)
      for (const each of [solid, glass]) {
        each.material.dispose();
        each.dispose();
      }
    this.edgeMaterial.dispose();
  }

  private edgesOf(): readonly PlacedEdges[] {
    if (this.placed.reduce((sum, { at }) => sum + at.length, 0) > MOST_EDGED) return [];
    return this.placed.flatMap(({ at, nodes }, mesh) =>
      (this.meshes[mesh]?.parts ?? []).flatMap((part) => {
        const sharp = (part.edges ??= new EdgesGeometry(part.geometry, SHARP_DEGREES));
        return at.map((_, place) => {
          const lines = new LineSegments(sharp, this.edgeMaterial);
          lines.matrixAutoUpdate = false;
          return { mesh, place, node: nodes[place] ?? -1, lines };
        });
      }),
    );
  }
}

function drawnOf(
  own: LookMesh | undefined,
  { mesh, count }: { readonly mesh: number; readonly count: number },
): Drawn[] {
  return (own?.parts ?? []).map(({ geometry, colour, firstTriangle }) => {
    const instanced = (isGlass: boolean): Instanced =>
      new InstancedMesh(
        geometry,
        new MeshStandardMaterial({
          ...{ metalness: 0.1, roughness: 0.65, side: DoubleSide },
          ...(isGlass ? { transparent: true, depthWrite: false } : {}),
          vertexColors: geometry.hasAttribute('color'),
        }),
        count,
      );
    // Corners that have colours of their own are not coloured over.
    const shown = geometry.hasAttribute('color') ? new Color(0xffffff) : colour;
    return { mesh, firstTriangle, colour: shown, solid: instanced(false), glass: instanced(true) };
  });
}
