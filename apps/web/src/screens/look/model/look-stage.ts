/** The picture that is worked in: every use of an assembly, turned, picked, cut and moved apart. */
import type { SceneAnswer, SceneCamera } from '@stem-trace/contract';
import type { FilledSection, Outline, Point, SectionPlane } from '@stem-trace/core/look';
import {
  AmbientLight,
  type Box3,
  Color,
  DirectionalLight,
  Plane,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderer,
} from 'three';
import { placementOf } from '../../../pictures/place-matrix.js';
import { capsOf, type Caps } from './caps.js';
import { DrawnParts, type Appearance } from './drawn-parts.js';
import { toDesign, toDrawn, turnedToDrawn } from './frames.js';
import { LookEye } from './look-eye.js';
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
  private readonly eye: LookEye;
  private readonly parts: DrawnParts;
  private readonly cutter: SectionCutter;
  private readonly resizing: ResizeObserver;
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
    this.renderer.localClippingEnabled = true;
    box.append(this.renderer.domElement);
    this.eye = new LookEye(this.renderer.domElement, {
      ...{ changed: this.draw, began: this.beginTurning, ended: this.endTurning },
    });
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
    return (toDesign(this.eye.direction)[axis] ?? 0) >= 0;
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
  fit(from: Vector3 = this.eye.direction, room = 1.05): void {
    this.isAimed = true;
    this.fitFrom(from, room);
  }

  private seeAll(): void {
    const { from, up } = VIEWS.corner;
    this.aim(from, up);
  }

  private aim(from: Point, up: Point): void {
    this.eye.up(up);
    this.fitFrom(turnedToDrawn(from), 1.05);
  }

  private fitFrom(from: Vector3, room: number): void {
    const selected = this.boundsOf(this.looks.selected).getBoundingSphere(new Sphere());
    this.eye.fit(selected, from, { whole: this.whole(), room });
    this.draw();
  }

  /** The same with what is around it in sight. */
  fitWithin(): void {
    this.fit(undefined, AROUND);
  }

  project(isParallel: boolean): void {
    this.eye.isParallel = isParallel;
    this.draw();
  }

  /** From where one looks, as it can be kept. */
  camera(): SceneCamera {
    return this.eye.kept();
  }

  /** Looks from there. */
  lookFrom(camera: SceneCamera): void {
    this.isAimed = true;
    this.eye.lookFrom(camera, this.whole());
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
    const hit = this.parts
      .hits(this.eye.rayAt(x, y))
      .find(({ point }) => this.planes.every((plane) => plane.distanceToPoint(point) >= 0));
    if (!hit) return undefined;
    const [dx, dy, dz] = this.looks.offsetOf?.(hit.node) ?? [0, 0, 0];
    const [px, py, pz] = toDesign(hit.point);
    return { ...hit, point: [px - dx, py - dy, pz - dz] };
  }

  /**
   * What is at a point of the picture, in pixels of the window: on the first thing that is not cut away; beside all things as far
   * away as another point.
   */
  spotAt(x: number, y: number, beside: Point | undefined): Point {
    return this.pick(x, y)?.point ?? this.eye.spotAt(x, y, beside);
  }

  /** Where a point of the picture, in pixels of the window, is as far away as another point. */
  besideAt(x: number, y: number, point: Point): Point {
    return this.eye.spotAt(x, y, point);
  }

  /** Upper left corner of the picture, in pixels of the window. */
  corner(): readonly [number, number] {
    const { left, top } = this.renderer.domElement.getBoundingClientRect();
    return [left, top];
  }

  middle(): readonly [number, number] {
    const { left, top, width, height } = this.renderer.domElement.getBoundingClientRect();
    return [left + width / 2, top + height / 2];
  }

  /** Uses of which all that is drawn lies within a rectangle. `O(uses)` */
  inside({ left, top, right, bottom }: Rectangle): number[] {
    const { left: x0, top: y0 } = this.renderer.domElement.getBoundingClientRect();
    const isIn = (corner: Vector3): boolean => {
      const at = this.eye.onScreen(corner);
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
    this.eye.turns(does);
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
    return this.eye.onScreen(toDrawn(point));
  }

  /** A direction of the design as it is seen: to the right, upwards, and towards whoever looks. */
  turned(axis: Point): Point {
    return this.eye.turned(axis);
  }

  /** Turns around a point from now on, which comes to the middle. */
  turnAround(point: Point): void {
    this.eye.turnAround(point);
    this.isAimed = true;
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
    this.eye.end();
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
  private whole(): Sphere {
    return this.parts.boundsOf(() => true).getBoundingSphere(new Sphere());
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

  /** Soon, and once, whatever is asked for meanwhile; a processor that draws slowly is not given more than it can do. */
  private readonly draw = (): void => {
    this.drawing ??= requestAnimationFrame(this.drawNow);
  };

  private readonly drawNow = (): void => {
    if (this.drawing !== undefined) cancelAnimationFrame(this.drawing);
    this.drawing = undefined;
    const { position, distance: size } = this.eye;
    this.light.position.copy(position).add(new Vector3(size * 0.2, size * 0.4, 0));
    const isQuick = this.isTurning || this.isComing;
    const ratio = this.pixelRatio(isQuick);
    // Another size of the picture takes away what is drawn in it.
    if (this.renderer.getPixelRatio() !== ratio) this.renderer.setPixelRatio(ratio);
    const most = this.isByProcessor ? BY_PROCESSOR.mostTurned : MOST_TURNED;
    this.parts.refine(this.eye.seen(), isQuick ? most : Infinity);
    this.renderer.render(this.scene, this.eye.camera());
    for (const listener of this.listeners) listener();
  };

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
    this.eye.resize(width, height);
    this.draw();
  };
}

/** three.js keeps what lies on the side of the normal. */
function clippingPlane({ point, normal }: SectionPlane): Plane {
  return new Plane().setFromNormalAndCoplanarPoint(turnedToDrawn(normal).negate(), toDrawn(point));
}

function cornersOf({ min, max }: Box3): Vector3[] {
  return [min.x, max.x].flatMap((x) =>
    [min.y, max.y].flatMap((y) => [min.z, max.z].map((z) => new Vector3(x, y, z))),
  );
}
