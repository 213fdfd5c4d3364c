/** What has one colour in a file, in all its places at once. */
import {
  Color,
  DoubleSide,
  FrontSide,
  InstancedMesh,
  Matrix4,
  MeshLambertMaterial,
  Sphere,
  type Vector3,
  type Box3,
  type BufferGeometry,
  type Intersection,
  type Object3D,
  type Plane,
  type Raycaster,
} from 'three';
import type { LookPart } from './look-mesh.js';

type Instanced = InstancedMesh<BufferGeometry, MeshLambertMaterial>;

export interface ShownPlace {
  readonly opacity: number;
  /** Undefined for the colour of the part. */
  readonly colour: Color | undefined;
  readonly stands: Matrix4;
}

/** From where one looks. */
export interface Eye {
  readonly at: Vector3;
  /** How large a metre is, in pixels, so far away. */
  readonly pixelsAt: (metres: number) => number;
}

interface Level {
  readonly geometry: BufferGeometry;
  readonly triangles: number;
  /** Metres. */
  readonly error: number;
}

const GONE = new Matrix4().makeScale(0, 0, 0);

export class DrawnPart {
  readonly firstTriangle: number;
  private readonly isClosed: boolean;
  private readonly solid: Instanced;
  private readonly glass: Instanced;
  private readonly colour: Color;
  /** The finest first. */
  private readonly levels: readonly Level[];
  /** Where what is shown stands. */
  private spheres: readonly Sphere[] = [];
  /** How large a metre is in pixels where it stands nearest. */
  private pixelsPerMetre = Infinity;

  constructor({ geometry, colour, firstTriangle, isClosed, coarser }: LookPart, count: number) {
    this.firstTriangle = firstTriangle;
    this.isClosed = isClosed;
    this.levels = [levelOf(geometry, 0), ...coarser.map((each) => levelOf(each.geometry, each.error))];
    const instanced = (isGlass: boolean): Instanced =>
      new InstancedMesh(
        geometry,
        new MeshLambertMaterial({
          side: isClosed ? FrontSide : DoubleSide,
          ...(isGlass ? { transparent: true, depthWrite: false } : {}),
          vertexColors: geometry.hasAttribute('color'),
        }),
        count,
      );
    // Corners that have colours of their own are not coloured over.
    this.colour = geometry.hasAttribute('color') ? new Color(0xffffff) : colour;
    this.solid = instanced(false);
    this.glass = instanced(true);
  }

  get objects(): readonly Object3D[] {
    return [this.solid, this.glass];
  }

  /** @param bounds of the whole file by itself */
  show(places: readonly ShownPlace[], bounds: Box3): void {
    let glassy = 0;
    let isSolid = false;
    const own = bounds.getBoundingSphere(new Sphere());
    places.forEach(({ opacity, colour, stands }, place) => {
      const isGlass = opacity > 0 && opacity < 1;
      if (isGlass) glassy = Math.max(glassy, opacity);
      isSolid ||= opacity >= 1;
      this.solid.setMatrixAt(place, opacity >= 1 ? stands : GONE);
      this.glass.setMatrixAt(place, isGlass ? stands : GONE);
      for (const instanced of [this.solid, this.glass]) instanced.setColorAt(place, colour ?? this.colour);
    });
    this.spheres = places.flatMap(({ opacity, stands }) =>
      opacity > 0 ? own.clone().applyMatrix4(stands) : [],
    );
    this.solid.visible = isSolid;
    this.glass.visible = glassy > 0;
    this.glass.material.opacity = glassy;
    for (const instanced of [this.solid, this.glass]) {
      instanced.instanceMatrix.needsUpdate = true;
      if (instanced.instanceColor) instanced.instanceColor.needsUpdate = true;
      instanced.computeBoundingSphere();
    }
  }

  clip(planes: Plane[]): void {
    for (const { material } of [this.solid, this.glass]) {
      material.clippingPlanes = planes;
      // Into what is cut one looks from behind, until it is closed again.
      const side = this.isClosed && planes.length === 0 ? FrontSide : DoubleSide;
      material.needsUpdate ||= material.side !== side;
      material.side = side;
    }
  }

  /** Before `coarsen`, whenever one looks from elsewhere or something else is shown. */
  lookFrom({ at, pixelsAt }: Eye): void {
    const nearest = this.spheres.reduce(
      (least, { center, radius }) => Math.min(least, center.distanceTo(at) - radius),
      Infinity,
    );
    this.pixelsPerMetre = pixelsAt(Math.max(nearest, 0));
  }

  /**
   * Draws the coarsest that lies off by no more than so many pixels.
   *
   * @returns triangles that are then drawn
   */
  coarsen(pixels: number): number {
    const level = this.levels.findLast(({ error }) => error === 0 || error * this.pixelsPerMetre <= pixels);
    if (!level) return 0;
    this.solid.geometry = level.geometry;
    this.glass.geometry = level.geometry;
    return level.triangles * this.spheres.length;
  }

  /** On the true shape, whichever is drawn. */
  hits(raycaster: Raycaster): Intersection[] {
    const [fine] = this.levels;
    const drawn = this.solid.geometry;
    if (!fine) return [];
    return [this.solid, this.glass].flatMap((instanced) => {
      if (!instanced.visible) return [];
      instanced.geometry = fine.geometry;
      const found = raycaster.intersectObject(instanced, false);
      instanced.geometry = drawn;
      return found;
    });
  }

  end(): void {
    for (const each of [this.solid, this.glass]) {
      each.material.dispose();
      each.dispose();
    }
  }
}

function levelOf(geometry: BufferGeometry, error: number): Level {
  return { geometry, error, triangles: (geometry.getIndex()?.count ?? 0) / 3 };
}
