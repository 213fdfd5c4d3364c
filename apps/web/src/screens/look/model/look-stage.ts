/** The picture that is worked in: every use of an assembly, turned, picked, cut and moved apart. */
import type { SceneAnswer, SceneCamera } from '@stem-trace/contract';
import type { Outline, Point, SectionPlane } from '@stem-trace/core/look';
import {
  AmbientLight,
  type Box3,
  Color,
  DirectionalLight,
  OrthographicCamera,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Scene,
  Sphere,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { placementOf } from '../../../pictures/place-matrix.js';
import { capsOf, type Caps } from './caps.js';
import { DrawnParts, type Appearance } from './drawn-parts.js';
import { toDesign, toDrawn, turnedToDrawn } from './frames.js';
import type { LookMesh } from './look-mesh.js';
import { SectionCutter } from './section-cutter.js';
import { VIEWS, type ViewName } from './views.js';

/** A face that was clicked at. */
export interface Picked {
  readonly node: number;
  readonly mesh: number;
  readonly place: number;
  /** Triangle of the mesh's body. */
  readonly triangle: number;
  /** Millimetres, in the frame of the item, where its use stands when nothing is moved apart. */
  readonly point: Point;
}

export interface Looks extends Appearance {
  /** Which is fitted into the picture; all where that is none. */
  readonly selected: ReadonlySet<number>;
  readonly sections: readonly SectionPlane[];
}

/** A rectangle of the window, in its pixels. */
export interface Rectangle {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

const FIELD_OF_VIEW = 28;
/** How much further away one looks at something among what is around it. */
const AROUND = 3.5;
const PAPER = new Color(0x9fadb5);

export class LookStage {
  private readonly renderer = new WebGLRenderer({
    ...{ antialias: true, alpha: true },
    // A picture of it can be saved.
    preserveDrawingBuffer: true,
  });
  private readonly scene = new Scene();
  private readonly light = new DirectionalLight(0xffffff, 2.2);
  private readonly perspective: PerspectiveCamera;
  private readonly parallel = new OrthographicCamera();
  private readonly controls: OrbitControls;
  private readonly parts: DrawnParts;
  private readonly cutter: SectionCutter;
  private readonly resizing: ResizeObserver;
  private isParallel = false;
  private readonly listeners = new Set<() => void>();
  private looks: Looks = {
    ...{ opacityOf: () => 1, colourOf: () => undefined, selected: new Set(), sections: [] },
  };
  private planes: Plane[] = [];
  private caps: readonly Caps[] = [];
  /** Of each section, what is cut; empty until it is worked out. */
  outlines: readonly (readonly Outline[])[] = [];

  constructor(
    private readonly box: HTMLElement,
    private readonly placed: SceneAnswer['meshes'],
    private readonly meshes: readonly (LookMesh | undefined)[],
  ) {
    this.parts = new DrawnParts(placed, meshes);
    this.cutter = new SectionCutter(
      meshes.map((mesh) => mesh?.shape),
      (outlines) => this.close(outlines),
    );
    this.scene.add(...this.parts.objects, new AmbientLight(0xffffff, 1.3), this.light);
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
    this.parts.show(looks);
    this.cut();
    this.draw();
  }

  /** Whether one looks from that end of an axis of the design, 0 to 2, where it counts up. */
  looksFromAbove(axis: number): boolean {
    return (toDesign(this.perspective.position.clone().sub(this.controls.target))[axis] ?? 0) >= 0;
  }

  /** Turns so that one looks along an axis, and sees everything. */
  view(name: ViewName): void {
    const { from, up } = VIEWS[name];
    this.lookAlong(from, up);
  }

  /** Turns so that one looks at something from a direction, and sees everything. */
  lookAlong(from: Point, up: Point): void {
    this.perspective.up.copy(turnedToDrawn(up));
    this.fit(turnedToDrawn(from));
  }

  /**
   * Nearer or further, until all that is selected is in sight, or all that is shown.
   *
   * @param from direction from which one looks; as before where it is not said
   * @param room how much more is seen than that, 1 being nothing
   */
  fit(from: Vector3 = this.perspective.position.clone().sub(this.controls.target), room = 1.05): void {
    const { center, radius } = this.boundsOf(this.looks.selected).getBoundingSphere(new Sphere());
    const size = Math.max(radius, 1e-6);
    const distance = (size / Math.sin((FIELD_OF_VIEW * Math.PI) / 360)) * room;
    this.controls.target.copy(center);
    this.perspective.position.copy(center).addScaledVector(from.normalize(), distance);
    this.reach();
    this.controls.update();
    this.draw();
  }

  /** The same with what is around it in sight. */
  fitWithin(): void {
    this.fit(undefined, AROUND);
  }

  project(isParallel: boolean): void {
    this.isParallel = isParallel;
    this.draw();
  }

  /** From where one looks, as it can be kept. */
  camera(): SceneCamera {
    const { position, up } = this.perspective;
    return {
      ...{ from: toDesign(position), at: toDesign(this.controls.target) },
      ...{ up: turnedBack(up), isParallel: this.isParallel },
    };
  }

  /** Looks from there. */
  lookFrom({ from, at, up, isParallel }: SceneCamera): void {
    this.isParallel = isParallel;
    this.perspective.up.copy(turnedToDrawn(up));
    this.perspective.position.copy(toDrawn(from));
    this.controls.target.copy(toDrawn(at));
    this.reach();
    this.controls.update();
    this.draw();
  }

  /** Corners of all that is shown or of some of it, millimetres, in the frame of the item. */
  boxOf(nodes: ReadonlySet<number> = new Set()): { readonly min: Vector3; readonly max: Vector3 } {
    const { min, max } = this.boundsOf(nodes);
    const [low, high] = [toDesign(min), toDesign(max)];
    return { min: new Vector3(low[0], high[1], low[2]), max: new Vector3(high[0], low[1], high[2]) };
  }

  /** What is at a point of the picture, in pixels of the window; the first thing that is not cut away. */
  pick(x: number, y: number): Picked | undefined {
    const { left, top, width, height } = this.renderer.domElement.getBoundingClientRect();
    const at = new Vector2(((x - left) / width) * 2 - 1, 1 - ((y - top) / height) * 2);
    const raycaster = new Raycaster();
    raycaster.setFromCamera(at, this.eye());
    const found = raycaster
      .intersectObjects([...this.parts.pickable])
      .find(({ point }) => this.planes.every((plane) => plane.distanceToPoint(point) >= 0));
    const hit = found && this.parts.hit(found.object, found.instanceId, found.faceIndex ?? 0);
    if (!found || !hit) return undefined;
    const [dx, dy, dz] = this.looks.offsetOf?.(hit.node) ?? [0, 0, 0];
    const [px, py, pz] = toDesign(found.point);
    return { ...hit, point: [px - dx, py - dy, pz - dz] };
  }

  /** Uses of which all that is drawn lies within a rectangle. `O(uses)` */
  inside({ left, top, right, bottom }: Rectangle): number[] {
    const { left: x0, top: y0 } = this.renderer.domElement.getBoundingClientRect();
    const isIn = (corner: Vector3): boolean => {
      const at = this.onScreen(corner);
      return (
        at !== undefined &&
        at[0] + x0 >= left &&
        at[0] + x0 <= right &&
        at[1] + y0 >= top &&
        at[1] + y0 <= bottom
      );
    };
    const within = new Map<number, boolean>();
    this.parts.eachUse((mesh, place, node) => {
      const own = this.meshes[mesh]?.bounds;
      if (!own || !this.parts.isShown(node)) return;
      const stands = this.parts.standsAt(mesh, place);
      within.set(
        node,
        (within.get(node) ?? true) && cornersOf(own).every((corner) => isIn(corner.applyMatrix4(stands))),
      );
    });
    return [...within].flatMap(([node, isWithin]) => (isWithin ? node : []));
  }

  /** Whether dragging turns the picture; otherwise it is for something else. */
  turns(does: boolean): void {
    this.controls.enabled = does;
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
  screenOf(point: Point): readonly [number, number] | undefined {
    return this.onScreen(toDrawn(point));
  }

  /** A direction of the design as it is seen: to the right, upwards, and towards whoever looks. */
  turned(axis: Point): Point {
    const seen = turnedToDrawn(axis).applyQuaternion(this.perspective.quaternion.clone().invert());
    return [seen.x, seen.y, seen.z];
  }

  /** Turns around a point from now on, which comes to the middle. */
  turnAround(point: Point): void {
    const target = toDrawn(point);
    this.perspective.position.add(target.clone().sub(this.controls.target));
    this.controls.target.copy(target);
    this.controls.update();
    this.draw();
  }

  /** The picture as it is, as PNG. */
  png(): Promise<Blob | null> {
    this.draw();
    return new Promise((done) => this.renderer.domElement.toBlob(done, 'image/png'));
  }

  end(): void {
    this.listeners.clear();
    this.resizing.disconnect();
    this.controls.dispose();
    for (const each of this.caps) each.end();
    this.cutter.end();
    this.parts.end();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
    this.renderer.domElement.remove();
  }

  /** Of some uses; of all that is shown where they are none or nothing is drawn of them. */
  private boundsOf(nodes: ReadonlySet<number>): Box3 {
    const bounds = this.parts.boundsOf((node) => nodes.has(node));
    return bounds.isEmpty() ? this.parts.boundsOf((node) => this.parts.isShown(node)) : bounds;
  }

  /** What is not selected must not be cut off. */
  private reach(): void {
    const whole = this.parts.boundsOf(() => true).getBoundingSphere(new Sphere());
    const { position } = this.perspective;
    const distance = position.distanceTo(this.controls.target);
    this.perspective.near = Math.max(distance / 200, 1e-7);
    this.perspective.far = position.distanceTo(whole.center) + whole.radius * 2 + distance;
    this.perspective.updateProjectionMatrix();
  }

  /** Clips at once; what is cut is closed as soon as its outlines are known. */
  private cut(): void {
    const { sections } = this.looks;
    this.planes = sections.map(clippingPlane);
    this.parts.clip(this.planes);
    if (sections.length === 0) {
      this.cutter.forget();
      this.close([]);
      return;
    }
    this.cutter.cut(
      this.cutBodies().map(({ mesh, place }) => ({
        mesh,
        at: placementOf(this.parts.standsAt(mesh, place)),
      })),
      sections,
    );
  }

  /** What can be cut, in an order that stays while nothing else is shown. */
  private cutBodies(): readonly { readonly mesh: number; readonly place: number }[] {
    const bodies: { readonly mesh: number; readonly place: number }[] = [];
    this.parts.eachUse((mesh, place, node) => {
      if (this.meshes[mesh] && this.looks.opacityOf(node) >= 1) bodies.push({ mesh, place });
    });
    return bodies;
  }

  private close(outlines: readonly (readonly Outline[])[]): void {
    for (const each of this.caps) each.end();
    this.outlines = outlines;
    const bodies = this.cutBodies();
    const colourOf = (of: number): Color => {
      const { mesh = -1, place = -1 } = bodies[of] ?? {};
      const node = this.placed[mesh]?.nodes[place] ?? -1;
      return this.looks.colourOf(node) ?? this.meshes[mesh]?.parts[0]?.colour ?? PAPER;
    };
    this.caps = outlines.flatMap((each, at) => {
      const plane = this.looks.sections[at];
      return plane
        ? capsOf(each, plane, { colourOf, clips: this.planes.filter((_, other) => other !== at) })
        : [];
    });
    for (const { group } of this.caps) this.scene.add(group);
    this.draw();
  }

  private onScreen(point: Vector3): readonly [number, number] | undefined {
    const at = point.clone().project(this.eye());
    const { clientWidth, clientHeight } = this.box;
    return at.z > 1 ? undefined : [((at.x + 1) / 2) * clientWidth, ((1 - at.y) / 2) * clientHeight];
  }

  private eye(): PerspectiveCamera | OrthographicCamera {
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
    this.renderer.render(this.scene, this.eye());
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

/** three.js keeps what lies on the side of the normal. */
function clippingPlane({ point, normal }: SectionPlane): Plane {
  return new Plane().setFromNormalAndCoplanarPoint(turnedToDrawn(normal).negate(), toDrawn(point));
}

function turnedBack({ x, y, z }: Vector3): Point {
  return [x, -z, y];
}

function cornersOf({ min, max }: Box3): Vector3[] {
  return [min.x, max.x].flatMap((x) =>
    [min.y, max.y].flatMap((y) => [min.z, max.z].map((z) => new Vector3(x, y, z))),
  );
}
