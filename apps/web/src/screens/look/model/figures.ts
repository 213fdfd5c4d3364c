/** Volume, surface, mass and centre of gravity of what is selected, from the meshes and from what items say they weigh. */
import type { SceneAnswer, TraitsAnswer } from '@stem-trace/contract';
import { bodyFigures, type Point } from '@stem-trace/core/look';
import { Box3, Vector3 } from 'three';
import { placeMatrix } from '../../../pictures/place-matrix.js';
import { sayMass, saySize, saySolid, type Showing } from '../../../ui/showing.js';
import { toDesign, toDrawn } from './frames.js';
import type { LookMesh } from './look-mesh.js';
import { sayLength } from './measured.js';

export interface Figures {
  readonly volumeMm3: number;
  readonly areaMm2: number;
  /** How far the volume may be off. */
  readonly toleranceMm3: number;
  /** Undefined where nothing selected says its mass. */
  readonly massKg: number | undefined;
  /** Of the mass, where every use says its own; of the volume otherwise, as if all were of one material. */
  readonly centre: Point;
  /** Width, depth and height of the box around it, where it stands when nothing is taken apart. */
  readonly sides: readonly number[];
  readonly uses: number;
  /** Of these, those whose mass nobody knows. */
  readonly unknown: number;
}

/** @returns undefined where nothing is drawn of it. `O(triangles)` once for each mesh, then `O(uses)` */
export function figuresOf(
  nodes: ReadonlySet<number>,
  {
    scene,
    loaded,
    traits,
  }: {
    readonly scene: SceneAnswer;
    readonly loaded: readonly (LookMesh | undefined)[];
    readonly traits: TraitsAnswer;
  },
): Figures | undefined {
  let [volumeMm3, areaMm2, toleranceMm3, massKg, uses, unknown] = [0, 0, 0, 0, 0, 0];
  const box = new Box3();
  const byVolume = new Vector3();
  const byMass = new Vector3();
  scene.meshes.forEach(({ at, nodes: own }, mesh) => {
    const loadedMesh = loaded[mesh];
    if (!loadedMesh) return;
    at.forEach((placement, place) => {
      const node = own[place] ?? -1;
      if (!nodes.has(node)) return;
      const mass = (loadedMesh.figures ??= bodyFigures(loadedMesh.shape));
      const centre = toDrawn(mass.centre).applyMatrix4(placeMatrix(placement));
      const kg = traits.rows[traits.of[node] ?? -1]?.massKg ?? null;
      uses++;
      box.union(loadedMesh.bounds.clone().applyMatrix4(placeMatrix(placement)));
      volumeMm3 += mass.volumeMm3;
      areaMm2 += mass.areaMm2;
      toleranceMm3 += mass.toleranceMm3;
      byVolume.addScaledVector(centre, mass.volumeMm3);
      if (kg === null) unknown++;
      else {
        massKg += kg;
        byMass.addScaledVector(centre, kg);
      }
    });
  });
  if (uses === 0) return undefined;
  const isWeighed = unknown === 0 && massKg > 0;
  const whole = isWeighed ? massKg : volumeMm3;
  const centre = (isWeighed ? byMass : byVolume).divideScalar(whole || 1);
  return {
    ...{ volumeMm3, areaMm2, toleranceMm3, uses, unknown },
    sides: toDesign(box.getSize(new Vector3())).map(Math.abs),
    massKg: unknown < uses ? massKg : undefined,
    centre: toDesign(centre),
  };
}

export function sayFigures(figures: Figures, { length, mass }: Showing): string {
  const { sides, volumeMm3, toleranceMm3, areaMm2, massKg, centre, unknown, uses } = figures;
  const [x, y, z] = centre.map((mm) => sayLength(Number(mm.toFixed(2)) + 0, length).replace(/ \w+$/, ''));
  const weighed =
    massKg === undefined
      ? 'nobody says its mass'
      : `${sayMass(massKg, mass)}${unknown > 0 ? ` without ${unknown} of ${uses} that say none` : ''}`;
  const of = massKg !== undefined && unknown === 0 ? 'centre of gravity' : 'centre of the volume';
  return [
    `box ${saySize(sides, length)}`,
    `≈ ${saySolid(volumeMm3, areaMm2, length)}${sayShare(toleranceMm3, volumeMm3)}`,
    weighed,
    `${of} ≈ x ${x}, y ${y}, z ${z} ${length}`,
  ].join(' · ');
}

/** Less than one in a thousand is not said. */
function sayShare(tolerance: number, whole: number): string {
  const share = whole > 0 ? (tolerance / whole) * 100 : 0;
  return share < 0.1 ? '' : ` (volume ± ${Number(share.toPrecision(1))} %)`;
}
