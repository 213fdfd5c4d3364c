/** Boxes in the places of what has not been fetched yet, so that one sees what comes, and how large it is. */
import type { SceneAnswer } from '@stem-trace/contract';
import {
  Box3,
  BoxGeometry,
  Color,
  InstancedMesh,
  Matrix4,
  MeshStandardMaterial,
  Vector3,
  type Object3D,
  type Plane,
} from 'three';
import { toDrawn } from './frames.js';

const BOX = new Color(0x9fadb5);
const SEEN = 0.22;
const GONE = new Matrix4().makeScale(0, 0, 0);

export class WaitingBoxes {
  private readonly bounds: readonly (Box3 | undefined)[];
  private readonly instanced: InstancedMesh<BoxGeometry, MeshStandardMaterial>;

  constructor(private readonly placed: SceneAnswer['meshes']) {
    this.bounds = placed.map(({ box }) => box && new Box3().setFromPoints(box.map(toDrawn)));
    this.instanced = new InstancedMesh(
      new BoxGeometry(1, 1, 1),
      new MeshStandardMaterial({ color: BOX, transparent: true, opacity: SEEN, depthWrite: false }),
      placed.reduce((sum, { at }, mesh) => sum + (this.bounds[mesh] ? at.length : 0), 0),
    );
  }

  get object(): Object3D {
    return this.instanced;
  }

  boundsOf(mesh: number): Box3 | undefined {
    return this.bounds[mesh];
  }

  /** @param standsAt undefined for what is not waited for, or not shown */
  show(standsAt: (mesh: number, place: number, node: number) => Matrix4 | undefined): void {
    let index = 0;
    let isAny = false;
    this.placed.forEach(({ at, nodes }, mesh) => {
      const bounds = this.bounds[mesh];
      if (!bounds) return;
      const size = bounds.getSize(new Vector3());
      const own = new Matrix4()
        .makeTranslation(bounds.getCenter(new Vector3()))
        .multiply(new Matrix4().makeScale(size.x, size.y, size.z));
      at.forEach((_, place) => {
        const stands = standsAt(mesh, place, nodes[place] ?? -1);
        isAny ||= stands !== undefined;
        this.instanced.setMatrixAt(index++, stands ? stands.multiply(own) : GONE);
      });
    });
    this.instanced.visible = isAny;
    this.instanced.instanceMatrix.needsUpdate = true;
    this.instanced.computeBoundingSphere();
  }

  clip(planes: Plane[]): void {
    this.instanced.material.clippingPlanes = planes;
  }

  end(): void {
    this.instanced.geometry.dispose();
    this.instanced.material.dispose();
    this.instanced.dispose();
  }
}
