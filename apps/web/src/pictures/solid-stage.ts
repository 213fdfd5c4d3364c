import {
  AmbientLight,
  Box3,
  DirectionalLight,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  PerspectiveCamera,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderer,
  type Object3D,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';

const FIELD_OF_VIEW = 28;
/** Edges where faces meet at more than this are what an engineer looks for. */
const SHARP_DEGREES = 25;
const EDGE = new LineBasicMaterial({ color: 0x22313a });

/** Draws a model in a box until ended; only when something moves, so that a still picture costs nothing. */
export class Stage {
  private readonly renderer = new WebGLRenderer({ antialias: true, alpha: true });
  private readonly scene: Scene;
  private readonly controls: OrbitControls;

  constructor(
    box: HTMLElement,
    private readonly model: Object3D,
  ) {
    const { clientWidth: width, clientHeight: height } = box;
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.setSize(width, height);
    box.append(this.renderer.domElement);
    const { scene, camera, light, center, radius } = viewOf(model, width / height);
    this.scene = scene;
    this.controls = new OrbitControls(camera, this.renderer.domElement);
    this.controls.target.copy(center);
    const draw = (): void => {
      shineFrom(camera, light, radius);
      this.renderer.render(this.scene, camera);
    };
    this.controls.addEventListener('change', draw);
    this.controls.update();
    draw();
  }

  end(): void {
    this.controls.dispose();
    this.scene.remove(this.model);
    this.renderer.dispose();
    this.renderer.forceContextLoss();
    this.renderer.domElement.remove();
  }
}

export interface View {
  readonly scene: Scene;
  readonly camera: PerspectiveCamera;
  readonly light: DirectionalLight;
  readonly center: Vector3;
  readonly radius: number;
}

/** A model with light, and a camera that sees all of it. @param aspect width of the picture by its height */
export function viewOf(model: Object3D, aspect: number): View {
  const scene = new Scene();
  const light = new DirectionalLight(0xffffff, 2.2);
  scene.add(model, new AmbientLight(0xffffff, 1.3), light);
  const { center, radius } = new Box3().setFromObject(model).getBoundingSphere(new Sphere());
  const camera = new PerspectiveCamera(FIELD_OF_VIEW, aspect, radius / 50, radius * 50);
  const distance = (radius / Math.sin((FIELD_OF_VIEW * Math.PI) / 360)) * 1.05;
  camera.position.copy(center).add(new Vector3(1, 0.7, 1.1).normalize().multiplyScalar(distance));
  camera.lookAt(center);
  shineFrom(camera, light, radius);
  return { scene, camera, light, center, radius };
}

/** Light comes from behind whoever looks, from above to the right. */
function shineFrom({ position }: PerspectiveCamera, light: DirectionalLight, radius: number): void {
  light.position.copy(position).add(new Vector3(radius, radius * 2, 0));
}

/** Adds the sharp edges of every mesh as lines; geometry is shared by whatever is cloned from it. */
export function withEdges(model: Object3D): Object3D {
  const meshes: Mesh[] = [];
  model.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object);
  });
  for (const mesh of meshes)
    mesh.add(new LineSegments(new EdgesGeometry(mesh.geometry, SHARP_DEGREES), EDGE));
  return model;
}
