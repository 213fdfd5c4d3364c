/** The picture that is worked in: every use of an assembly drawn from the meshes of its files, picked, hidden and cut. */
import {
  outlinesOf,
  solidBody,
  type Outline,
  type PlacedBody,
  type SectionPlane,
} from '@stem-trace/core/look';
import type { SceneAnswer } from '@stem-trace/contract';
import {
  AmbientLight,
  Box3,
  Color,
  DirectionalLight,
  DoubleSide,
  EdgesGeometry,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  MeshStandardMaterial,
  OrthographicCamera,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Scene,
  Sphere,
  Vector2,
  Vector3,
  WebGLRenderer,
  type BufferGeometry,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { capsOf } from './caps.js';
import { placeMatrix } from '../../pictures/place-matrix.js';
import type { LookMesh } from './look-mesh.js';

/** Directions from which one looks, with what is up there; the design has z up. */
const VIEWS = {
  front: { from: [0, -1, 0], up: [0, 0, 1] },
  back: { from: [0, 1, 0], up: [0, 0, 1] },
  left: { from: [-1, 0, 0], up: [0, 0, 1] },
  right: { from: [1, 0, 0], up: [0, 0, 1] },
  top: { from: [0, 0, 1], up: [0, 1, 0] },
  below: { from: [0, 0, -1], up: [0, 1, 0] },
  corner: { from: [1, -1.1, 0.7], up: [0, 0, 1] },
} as const;
export type ViewName = keyof typeof VIEWS;

/** A face that was clicked at. */
export interface Picked {
  readonly node: number;
  readonly mesh: number;
  readonly place: number;
  /** Triangle of the mesh's body. */
  readonly triangle: number;
  /** Millimetres, in the frame of the item. */
  readonly point: readonly [number, number, number];
}

export interface Looks {
  readonly hidden: ReadonlySet<number>;
  readonly selected: ReadonlySet<number>;
  /** Whether all that is not selected can be seen through. */
  readonly ghosts: boolean;
  readonly section: SectionPlane | null;
}

const FIELD_OF_VIEW = 28;
const SELECTED = new Color(0xc8743c);
const GONE = new Matrix4().makeScale(0, 0, 0);

type Instanced = InstancedMesh<BufferGeometry, MeshStandardMaterial>;

interface Drawn {
  readonly mesh: number;
  readonly firstTriangle: number;
  readonly solid: Instanced;
  readonly ghost: Instanced;
  readonly colour: Color;
}

export class LookStage {
  private readonly renderer = new WebGLRenderer({ antialias: true, alpha: true });
  private readonly scene = new Scene();
  private readonly light = new DirectionalLight(0xffffff, 2.2);
  private readonly perspective: PerspectiveCamera;
  private readonly parallel = new OrthographicCamera();
  private readonly controls: OrbitControls;
  private readonly drawn: readonly Drawn[];
  /** Sharp edges of each place, where they are few enough to be drawn. */
  private readonly edges: readonly PlacedEdges[];
  private readonly resizing: ResizeObserver;
  private isParallel = false;
  private readonly listeners = new Set<() => void>();
  private looks: Looks = { hidden: new Set(), selected: new Set(), ghosts: false, section: null };
  private planes: Plane[] = [];
  private caps: ReturnType<typeof capsOf> | undefined;
  /** Of what is cut; empty where nothing is. */
  outlines: readonly Outline[] = [];

  constructor(
    private readonly box: HTMLElement,
    private readonly placed: SceneAnswer['meshes'],
    private readonly meshes: readonly (LookMesh | undefined)[],
  ) {
    this.drawn = placed.flatMap(({ at }, mesh) => drawnOf(meshes[mesh], { mesh, count: at.length }));
    this.edges = edgesOf(placed, meshes);
    for (const { solid, ghost } of this.drawn) this.scene.add(solid, ghost);
    for (const { lines } of this.edges) this.scene.add(lines);
    this.scene.add(new AmbientLight(0xffffff, 1.3), this.light);
    this.perspective = new PerspectiveCamera(FIELD_OF_VIEW, 1);
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.localClippingEnabled = true;
    box.append(this.renderer.domElement);
    this.controls = new OrbitControls(this.perspective, this.renderer.domElement);
    this.controls.addEventListener('change', this.draw);
    this.resizing = new ResizeObserver(this.resize);
    this.resizing.observe(box);
    this.show(this.looks);
    this.resize();
    this.view('corner');
  }

  /** Where every use stands, and what is shown of it. */
  show(looks: Looks): void {
    this.looks = looks;
    const colour = new Color();
    for (const { mesh, solid, ghost, colour: own } of this.drawn) {
      const { at = [], nodes = [] } = this.placed[mesh] ?? {};
      at.forEach((placement, index) => {
        const node = nodes[index] ?? -1;
        const isSelected = looks.selected.has(node);
        const isHidden = looks.hidden.has(node);
        const isGhost = looks.ghosts && !isSelected;
        const stands = placeMatrix(placement);
        solid.setMatrixAt(index, isHidden || isGhost ? GONE : stands);
        ghost.setMatrixAt(index, isHidden || !isGhost ? GONE : stands);
        solid.setColorAt(index, colour.copy(isSelected ? SELECTED : own));
      });
      for (const instanced of [solid, ghost]) {
        instanced.instanceMatrix.needsUpdate = true;
        instanced.computeBoundingSphere();
      }
      if (solid.instanceColor) solid.instanceColor.needsUpdate = true;
    }
    for (const { node, lines } of this.edges)
      lines.visible = !looks.hidden.has(node) && (!looks.ghosts || looks.selected.has(node));
    this.cut();
    this.draw();
  }

  /** Whether one looks from that end of an axis of the design, 0 to 2, where it counts up. */
  looksFromAbove(axis: number): boolean {
    const from = this.perspective.position.clone().sub(this.controls.target);
    return ([from.x, -from.z, from.y][axis] ?? 0) >= 0;
  }

  /** Turns so that one looks along an axis, and sees everything. */
  view(name: ViewName): void {
    const { from, up } = VIEWS[name];
    this.perspective.up.set(up[0], up[2], -up[1]);
    this.fit(new Vector3(from[0], from[2], -from[1]));
  }

  /** Nearer or further, until all that is selected is in sight, or all that is shown. */
  fit(from: Vector3 = this.perspective.position.clone().sub(this.controls.target)): void {
    const bounds = this.boundsOf(this.looks.selected.size > 0 ? this.looks.selected : undefined);
    const { center, radius } = bounds.getBoundingSphere(new Sphere());
    const size = Math.max(radius, 1e-6);
    const distance = (size / Math.sin((FIELD_OF_VIEW * Math.PI) / 360)) * 1.05;
    this.controls.target.copy(center);
    this.perspective.position.copy(center).addScaledVector(from.normalize(), distance);
    // What is not selected must not be cut off.
    const whole = this.boundsOf().getBoundingSphere(new Sphere());
    this.perspective.near = distance / 200;
    this.perspective.far = distance + whole.radius * 4 + whole.center.distanceTo(center) * 2;
    this.perspective.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }

  project(isParallel: boolean): void {
    this.isParallel = isParallel;
    this.draw();
  }

  /** Corners of all that is shown or of some of it, millimetres, in the frame of the item. */
  boxOf(nodes?: ReadonlySet<number>): { readonly min: Vector3; readonly max: Vector3 } {
    const { min, max } = this.boundsOf(nodes);
    return {
      min: new Vector3(min.x, -max.z, min.y).multiplyScalar(1000),
      max: new Vector3(max.x, -min.z, max.y).multiplyScalar(1000),
    };
  }

  /** What is at a point of the picture, in pixels of the window; the first thing that is not cut away. */
  pick(x: number, y: number): Picked | undefined {
    const { left, top, width, height } = this.renderer.domElement.getBoundingClientRect();
    const at = new Vector2(((x - left) / width) * 2 - 1, 1 - ((y - top) / height) * 2);
    const raycaster = new Raycaster();
    raycaster.setFromCamera(at, this.camera());
    const hit = raycaster
      .intersectObjects(
        this.drawn.flatMap(({ solid, ghost }) => (this.looks.ghosts ? [solid, ghost] : solid)),
      )
      .find(({ point }) => this.planes.every((plane) => plane.distanceToPoint(point) >= 0));
    const drawn = this.drawn.find(({ solid, ghost }) => solid === hit?.object || ghost === hit?.object);
    if (!hit || !drawn || hit.instanceId === undefined) return undefined;
    const { x: right, y: up, z: towards } = hit.point;
    return {
      node: this.placed[drawn.mesh]?.nodes[hit.instanceId] ?? -1,
      ...{ mesh: drawn.mesh, place: hit.instanceId },
      triangle: drawn.firstTriangle + (hit.faceIndex ?? 0),
      point: [right * 1000, -towards * 1000, up * 1000],
    };
  }

  /** Calls whenever the picture was drawn anew. @returns a function that ends it */
  onDrawn(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Where a point, in mm in the frame of the item, is in the picture, in its pixels.
   *
   * @returns undefined where it lies behind whoever looks
   */
  screenOf([x, y, z]: Picked['point']): readonly [number, number] | undefined {
    const at = new Vector3(x, z, -y).divideScalar(1000).project(this.camera());
    const { clientWidth, clientHeight } = this.box;
    return at.z > 1 ? undefined : [((at.x + 1) / 2) * clientWidth, ((1 - at.y) / 2) * clientHeight];
  }

  /** Turns around a point from now on, which comes to the middle. */
  turnAround([x, y, z]: Picked['point']): void {
    const target = new Vector3(x, z, -y).divideScalar(1000);
    this.perspective.position.add(target.clone().sub(this.controls.target));
    this.controls.target.copy(target);
    this.controls.update();
    this.draw();
  }

  end(): void {
    this.listeners.clear();
    this.resizing.disconnect();
    this.controls.dispose();
    this.caps?.end();
    for (const { solid, ghost } of this.drawn)
      for (const each of [solid, ghost]) {
        each.material.dispose();
        each.dispose();
      }
    EDGE.clippingPlanes = [];
    this.renderer.dispose();
    this.renderer.forceContextLoss();
    this.renderer.domElement.remove();
  }

  private boundsOf(nodes?: ReadonlySet<number>): Box3 {
    const bounds = new Box3();
    this.placed.forEach(({ at, nodes: uses }, mesh) => {
      const own = this.meshes[mesh]?.bounds;
      at.forEach((placement, index) => {
        const node = uses[index] ?? -1;
        if (own && (nodes ? nodes.has(node) : !this.looks.hidden.has(node)))
          bounds.union(own.clone().applyMatrix4(placeMatrix(placement)));
      });
    });
    return bounds.isEmpty() && nodes ? this.boundsOf() : bounds;
  }

  /** Clips at once, and closes what is cut by the outlines of the cut. */
  private cut(): void {
    const { section, hidden } = this.looks;
    this.caps?.end();
    this.caps = undefined;
    this.outlines = [];
    this.planes = section ? [clippingPlane(section)] : [];
    for (const { solid, ghost } of this.drawn)
      for (const { material } of [solid, ghost]) material.clippingPlanes = this.planes;
    EDGE.clippingPlanes = this.planes;
    if (!section) return;
    const bodies: PlacedBody[] = [];
    const colours: Color[] = [];
    this.placed.forEach(({ at, nodes }, mesh) => {
      const own = this.meshes[mesh];
      if (!own) return;
      const body = (own.body ??= solidBody(own.shape));
      at.forEach((placement, index) => {
        if (hidden.has(nodes[index] ?? -1)) return;
        bodies.push({ body, at: placement });
        colours.push(own.parts[0]?.colour ?? new Color(0x9fadb5));
      });
    });
    this.outlines = outlinesOf(bodies, section);
    this.caps = capsOf(this.outlines, section, (of) => colours[of] ?? SELECTED);
    this.scene.add(this.caps.group);
  }

  private camera(): PerspectiveCamera | OrthographicCamera {
    if (!this.isParallel) return this.perspective;
    // As much as is seen in perspective where one turns around.
    const distance = this.perspective.position.distanceTo(this.controls.target);
    const half = distance * Math.tan((FIELD_OF_VIEW * Math.PI) / 360);
    const { parallel, perspective } = this;
    Object.assign(parallel, { top: half, bottom: -half });
    Object.assign(parallel, { left: -half * perspective.aspect, right: half * perspective.aspect });
    Object.assign(parallel, { near: -perspective.far, far: perspective.far });
    parallel.position.copy(perspective.position);
    parallel.quaternion.copy(perspective.quaternion);
    parallel.updateProjectionMatrix();
    parallel.updateMatrixWorld();
    return parallel;
  }

  private readonly draw = (): void => {
    const { position } = this.perspective;
    const size = position.distanceTo(this.controls.target);
    this.light.position.copy(position).add(new Vector3(size * 0.2, size * 0.4, 0));
    this.renderer.render(this.scene, this.camera());
    for (const listener of this.listeners) listener();
  };

  private readonly resize = (): void => {
    const { clientWidth: width, clientHeight: height } = this.box;
    if (width === 0 || height === 0) return;
    this.renderer.setSize(width, height);
    this.perspective.aspect = width / height;
    this.perspective.updateProjectionMatrix();
    this.draw();
  };
}

interface PlacedEdges {
  readonly node: number;
  readonly lines: LineSegments;
}

/** Places whose edges are drawn; each is an object of its own. */
const MOST_EDGED = 800;
/** Edges where faces meet at more than this are what an engineer looks for. */
const SHARP_DEGREES = 25;
const EDGE = new LineBasicMaterial({ color: 0x22313a });

function edgesOf(
  placed: SceneAnswer['meshes'],
  meshes: readonly (LookMesh | undefined)[],
): readonly PlacedEdges[] {
  if (placed.reduce((sum, { at }) => sum + at.length, 0) > MOST_EDGED) return [];
  return placed.flatMap(({ at, nodes }, mesh) =>
    (meshes[mesh]?.parts ?? []).flatMap((part) => {
      part.edges ??= new EdgesGeometry(part.geometry, SHARP_DEGREES);
      const { edges } = part;
      return at.map((placement, index) => {
        const lines = new LineSegments(edges, EDGE);
        lines.applyMatrix4(placeMatrix(placement));
        return { node: nodes[index] ?? -1, lines };
      });
    }),
  );
}

function drawnOf(
  own: LookMesh | undefined,
  { mesh, count }: { readonly mesh: number; readonly count: number },
): Drawn[] {
  return (own?.parts ?? []).map(({ geometry, colour, firstTriangle }) => {
    const instanced = (opacity: number): Instanced =>
      new InstancedMesh(
        geometry,
        new MeshStandardMaterial({
          ...{ metalness: 0.1, roughness: 0.65, side: DoubleSide },
          ...(opacity < 1 ? { transparent: true, opacity, depthWrite: false, color: colour } : {}),
        }),
        count,
      );
    return { mesh, firstTriangle, colour, solid: instanced(1), ghost: instanced(0.12) };
  });
}

/** three.js keeps what lies on the side of the normal. */
function clippingPlane({ point, normal }: SectionPlane): Plane {
  const turned = ([x, y, z]: SectionPlane['point']): Vector3 => new Vector3(x, z, -y);
  return new Plane().setFromNormalAndCoplanarPoint(
    turned(normal).negate().normalize(),
    turned(point).divideScalar(1000),
  );
}
