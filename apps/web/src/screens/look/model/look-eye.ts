/** From where one looks at a picture that is worked in: turned by hand, aimed, and found again. */
import type { SceneCamera } from '@stem-trace/contract';
import type { Point } from '@stem-trace/core/look';
import {
  OrthographicCamera,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Vector2,
  Vector3,
  type Sphere,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { Eye } from './drawn-part.js';
import { toDesign, toDrawn, turnedToDrawn } from './frames.js';

const FIELD_OF_VIEW = 28;
/** Of half of what is seen, by the distance. */
const HALF = Math.tan((FIELD_OF_VIEW * Math.PI) / 360);

export interface EyeListeners {
  readonly changed: () => void;
  /** A hand begins to turn. */
  readonly began: () => void;
  readonly ended: () => void;
}

export class LookEye {
  isParallel = false;
  private readonly perspective = new PerspectiveCamera(FIELD_OF_VIEW, 1);
  private readonly parallel = new OrthographicCamera();
  private readonly controls: OrbitControls;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    { changed, began, ended }: EyeListeners,
  ) {
    this.controls = new OrbitControls(this.perspective, canvas);
    this.controls.addEventListener('change', changed);
    this.controls.addEventListener('start', began);
    this.controls.addEventListener('end', ended);
  }

  get position(): Vector3 {
    return this.perspective.position;
  }

  /** To what one turns around, metres. */
  get distance(): number {
    return this.position.distanceTo(this.controls.target);
  }

  /** From what one turns around to where one looks from. */
  get direction(): Vector3 {
    return this.position.clone().sub(this.controls.target);
  }

  end(): void {
    this.controls.dispose();
  }

  /** Whether dragging turns the picture; otherwise it is for something else. */
  turns(does: boolean): void {
    this.controls.enabled = does;
  }

  resize(width: number, height: number): void {
    this.perspective.aspect = width / height;
    this.perspective.updateProjectionMatrix();
  }

  up(up: Point): void {
    this.perspective.up.copy(turnedToDrawn(up));
  }

  /**
   * Nearer or further, until all of something is in sight.
   *
   * @param whole all that there is, which is not cut off
   * @param room how much more is seen, 1 being nothing
   */
  fit({ center, radius }: Sphere, from: Vector3, { whole, room }: { whole: Sphere; room: number }): void {
    const size = Math.max(radius, 1e-6);
    const distance = (size / Math.sin((FIELD_OF_VIEW * Math.PI) / 360)) * room;
    this.controls.target.copy(center);
    this.position.copy(center).addScaledVector(from.normalize(), distance);
    this.reach(whole);
    this.controls.update();
  }

  /** From where one looks, as it can be kept. */
  kept(): SceneCamera {
    const { position, up } = this.perspective;
    return {
      ...{ from: toDesign(position), at: toDesign(this.controls.target) },
      ...{ up: turnedBack(up), isParallel: this.isParallel },
    };
  }

  lookFrom({ from, at, up, isParallel }: SceneCamera, whole: Sphere): void {
    this.isParallel = isParallel;
    this.up(up);
    this.position.copy(toDrawn(from));
    this.controls.target.copy(toDrawn(at));
    this.reach(whole);
    this.controls.update();
  }

  /** Turns around a point from now on, which comes to the middle. */
  turnAround(point: Point): void {
    const target = toDrawn(point);
    this.position.add(target.clone().sub(this.controls.target));
    this.controls.target.copy(target);
    this.controls.update();
  }

  /** A direction of the design as it is seen: to the right, upwards, and towards whoever looks. */
  turned(axis: Point): Point {
    const seen = turnedToDrawn(axis).applyQuaternion(this.perspective.quaternion.clone().invert());
    return [seen.x, seen.y, seen.z];
  }

  /** Where a point is in the picture, in its pixels; undefined where it lies behind whoever looks. */
  onScreen(point: Vector3): readonly [number, number] | undefined {
    const at = point.clone().project(this.camera());
    const { clientWidth, clientHeight } = this.canvas;
    return at.z > 1 ? undefined : [((at.x + 1) / 2) * clientWidth, ((1 - at.y) / 2) * clientHeight];
  }

  /** Into the picture at a point of it, in pixels of the window. */
  rayAt(x: number, y: number): Raycaster {
    const { left, top, width, height } = this.canvas.getBoundingClientRect();
    const at = new Vector2(((x - left) / width) * 2 - 1, 1 - ((y - top) / height) * 2);
    const raycaster = new Raycaster();
    raycaster.setFromCamera(at, this.camera());
    return raycaster;
  }

  /** Where that ray goes through the plane across it in which a point lies; in what one turns around where none is given. */
  spotAt(x: number, y: number, through: Point | undefined): Point {
    const camera = this.camera();
    const plane = new Plane().setFromNormalAndCoplanarPoint(
      camera.getWorldDirection(new Vector3()),
      through ? toDrawn(through) : this.controls.target,
    );
    const spot = this.rayAt(x, y).ray.intersectPlane(plane, new Vector3());
    return toDesign(spot ?? this.controls.target);
  }

  /** How large things are where they stand. */
  seen(): Eye {
    const { distance, isParallel } = this;
    return {
      at: this.position,
      pixelsAt: (metres) => this.canvas.height / (2 * HALF * Math.max(isParallel ? distance : metres, 1e-9)),
    };
  }

  camera(): PerspectiveCamera | OrthographicCamera {
    this.perspective.updateMatrixWorld();
    if (!this.isParallel) return this.perspective;
    // As much as is seen in perspective where one turns around.
    const half = this.distance * HALF;
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

  /** Nothing that there is must be cut off. */
  private reach({ center, radius }: Sphere): void {
    const { distance, perspective } = this;
    perspective.near = Math.max(distance / 200, 1e-7);
    perspective.far = this.position.distanceTo(center) + radius * 2 + distance;
    perspective.updateProjectionMatrix();
  }
}

function turnedBack({ x, y, z }: Vector3): Point {
  return [x, -z, y];
}
