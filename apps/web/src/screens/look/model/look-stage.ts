/** The picture that is worked in: every use of an assembly, turned, picked, cut and moved apart. */
import type { SceneAnswer, SceneCamera } from '@stem-trace/contract';
import type { FilledSection, Outline, Point, SectionPlane } from '@stem-trace/core/look';
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
import type { Eye } from './drawn-part.js';
import { DrawnParts, type Appearance } from './drawn-parts.js';
import { toDesign, toDrawn, turnedToDrawn } from './frames.js';
import type { LookMesh } from './look-mesh.js';
import { SectionCutter } from './section-cutter.js';
import { drawsByProcessor } from '../../../pictures/can-draw-solids.js';
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
}

/** A rectangle of the window, in its pixels. */
export interface Rectangle {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

const FIELD_OF_VIEW = 28;
/** What a processor that draws by itself can do while the picture is turned, so that it follows the hand. */
const BY_PROCESSOR = { mostTurned: 60_000, sharp: 1.5, turned: 0.5 } as const;
const MOST_TURNED = 1_000_000;
const SETTLED_MS = 150;
const MOST_PIXEL_RATIO = 2;
/** How much further away one looks at something among what is around it. */
const AROUND = 3.5;
const PAPER = new Color(0x9fadb5);

export class LookStage {
  private readonly isByProcessor = drawsByProcessor();
  private readonly renderer = new WebGLRenderer({
    // A processor is quicker with more pixels, and only while nothing moves.
    ...{ antialias: !this.isByProcessor, alpha: true },
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
  /** Whether somebody, or an address, has said from where one looks. */
  private isAimed = false;
  private isTurning = false;
  private settling: ReturnType<typeof setTimeout> | undefined;
  /** Whether more is still fetched, and the picture drawn again at once. */
  private isComing = true;
  private drawing: number | undefined;
  private readonly listeners = new Set<() => void>();
  private looks: Looks = {
    ...{ opacityOf: () => 1, colourOf: () => undefined, selected: new Set() },
  };
  private planes: Plane[] = [];
  private sections: readonly SectionPlane[] = [];
  /** What is cut, in the order in which it is told apart. */
  private cutBodies: readonly { readonly mesh: number; readonly place: number }[] = [];
  /** Whether the cutter knows where they stand. */
  private arePlaced = false;
  private caps: readonly Caps[] = [];

  constructor(
    private readonly box: HTMLElement,
    private readonly placed: SceneAnswer['meshes'],
  ) {
    this.parts = new DrawnParts(placed);
    this.cutter = new SectionCutter((filled) => this.close(filled));
    this.scene.add(this.parts.group, new AmbientLight(0xffffff, 1.3), this.light);
    this.perspective = new PerspectiveCamera(FIELD_OF_VIEW, 1);
    this.renderer.localClippingEnabled = true;
    box.append(this.renderer.domElement);
    this.controls = new OrbitControls(this.perspective, this.renderer.domElement);
    this.controls.addEventListener('change', this.draw);
    this.controls.addEventListener('start', this.beginTurning);
    this.controls.addEventListener('end', this.endTurning);
    this.resizing = new ResizeObserver(this.resize);
    this.resizing.observe(box);
    this.show(this.looks);
    this.resize();
    this.seeAll();
  }

  /** What has been fetched by now; where nobody has looked at it closer yet, all of it is seen. */
  put(meshes: readonly (LookMesh | undefined)[], isComing: boolean): void {
    const come = this.parts.put(meshes);
    this.isComing = isComing;
    for (const mesh of come) {
      const shape = this.parts.meshOf(mesh)?.shape;
      if (shape) this.cutter.know(mesh, shape);
    }
    if (come.length === 0) {
      this.draw();
      return;
    }
    this.show(this.looks);
    if (!this.isAimed) this.seeAll();
  }

  /** Where every use stands, and what is shown of it. */
  show(looks: Looks): void {
    this.looks = looks;
    this.parts.show(looks);
    this.cutBodies = this.bodiesToCut();
    this.arePlaced = false;
    this.cut();
    this.draw();
  }

  /** Takes away what lies on one side of each plane. */
  cutAt(sections: readonly SectionPlane[]): void {
    this.sections = sections;
    this.planes = sections.map(clippingPlane);
    this.parts.clip(this.planes);
    this.cut();
    this.draw();
  }

  /** The lines in which a plane cuts what is shown, whatever else is cut away. */
  outlinesAt(plane: SectionPlane): Promise<readonly Outline[]> {
    return this.cutter.outlines(plane);
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
    this.isAimed = true;
    this.aim(from, up);
  }

  /**
   * Nearer or further, until all that is selected is in sight, or all that is shown.
   *
   * @param from direction from which one looks; as before where it is not said
   * @param room how much more is seen than that, 1 being nothing
   */
  fit(from: Vector3 = this.perspective.position.clone().sub(this.controls.target), room = 1.05): void {
    this.isAimed = true;
    this.fitFrom(from, room);
  }

  private seeAll(): void {
    const { from, up } = VIEWS.corner;
    this.aim(from, up);
  }

  private aim(from: Point, up: Point): void {
    this.perspective.up.copy(turnedToDrawn(up));
    this.fitFrom(turnedToDrawn(from), 1.05);
  }

  private fitFrom(from: Vector3, room: number): void {
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
    this.isAimed = true;
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
    const hit = this.parts
      .hits(raycaster)
      .find(({ point }) => this.planes.every((plane) => plane.distanceToPoint(point) >= 0));
    if (!hit) return undefined;
    const [dx, dy, dz] = this.looks.offsetOf?.(hit.node) ?? [0, 0, 0];
    const [px, py, pz] = toDesign(hit.point);
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
      const own = this.parts.ownBounds(mesh);
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
    this.isAimed = true;
    this.controls.update();
    this.draw();
  }

  /** The picture as it is, as PNG. */
  png(): Promise<Blob | null> {
    this.drawNow();
    return new Promise((done) => this.renderer.domElement.toBlob(done, 'image/png'));
  }

  end(): void {
    this.listeners.clear();
    clearTimeout(this.settling);
    if (this.drawing !== undefined) cancelAnimationFrame(this.drawing);
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

  /** What is cut is clipped at once, and closed as soon as it is known how. */
  private cut(): void {
    if (this.sections.length > 0) {
      if (!this.arePlaced)
        this.cutter.place(
          this.cutBodies.map(({ mesh, place }) => ({
            mesh,
            at: placementOf(this.parts.standsAt(mesh, place)),
          })),
        );
      this.arePlaced = true;
      this.cutter.cut(this.sections);
      return;
    }
    this.cutter.forget();
    this.close([]);
  }

  private bodiesToCut(): readonly { readonly mesh: number; readonly place: number }[] {
    const bodies: { readonly mesh: number; readonly place: number }[] = [];
    this.parts.eachUse((mesh, place, node) => {
      if (this.parts.meshOf(mesh) && this.looks.opacityOf(node) >= 1) bodies.push({ mesh, place });
    });
    return bodies;
  }

  private close(filled: readonly FilledSection[]): void {
    for (const each of this.caps) each.end();
    const colourOf = (of: number): Color => {
      const { mesh = -1, place = -1 } = this.cutBodies[of] ?? {};
      const node = this.placed[mesh]?.nodes[place] ?? -1;
      return this.looks.colourOf(node) ?? this.parts.meshOf(mesh)?.parts[0]?.colour ?? PAPER;
    };
    this.caps = filled.flatMap((each, at) => {
      const plane = this.sections[at];
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
    this.perspective.updateMatrixWorld();
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

  /** Soon, and once, whatever is asked for meanwhile; a processor that draws slowly is not given more than it can do. */
  private readonly draw = (): void => {
    this.drawing ??= requestAnimationFrame(this.drawNow);
  };

  private readonly drawNow = (): void => {
    if (this.drawing !== undefined) cancelAnimationFrame(this.drawing);
    this.drawing = undefined;
    const { position } = this.perspective;
    const size = position.distanceTo(this.controls.target);
    this.light.position.copy(position).add(new Vector3(size * 0.2, size * 0.4, 0));
    const isQuick = this.isTurning || this.isComing;
    const ratio = this.pixelRatio(isQuick);
    // Another size of the picture takes away what is drawn in it.
    if (this.renderer.getPixelRatio() !== ratio) this.renderer.setPixelRatio(ratio);
    const most = this.isByProcessor ? BY_PROCESSOR.mostTurned : MOST_TURNED;
    this.parts.refine(this.seenFrom(size), isQuick ? most : Infinity);
    this.renderer.render(this.scene, this.eye());
    for (const listener of this.listeners) listener();
  };

  private seenFrom(distance: number): Eye {
    const half = Math.tan((FIELD_OF_VIEW * Math.PI) / 360);
    const height = this.renderer.domElement.height;
    return {
      at: this.perspective.position,
      pixelsAt: (metres) => height / (2 * half * Math.max(this.isParallel ? distance : metres, 1e-9)),
    };
  }

  private pixelRatio(isQuick: boolean): number {
    const own = Math.min(MOST_PIXEL_RATIO, window.devicePixelRatio);
    if (!this.isByProcessor) return own;
    return own * (isQuick ? BY_PROCESSOR.turned : BY_PROCESSOR.sharp);
  }

  private readonly beginTurning = (): void => {
    clearTimeout(this.settling);
    this.isAimed = true;
    this.isTurning = true;
  };

  /** A wheel turns step by step; only after the last one there is time to draw all. */
  private readonly endTurning = (): void => {
    clearTimeout(this.settling);
    this.settling = setTimeout(() => {
      this.isTurning = false;
      this.draw();
    }, SETTLED_MS);
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
