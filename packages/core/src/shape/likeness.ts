/**
 * How alike two shapes are: by size, by the proportions of their boxes, by how much surface they have for their volume, and
 * by the distances between points of their surfaces. The last is the shape distribution D2 of Osada, Funkhouser, Chazelle
 * and Dobkin, "Shape distributions", ACM Transactions on Graphics 21 (2002): it does not change when a part is turned or
 * moved.
 */
import { massOf, type TriangleMesh } from './mass.js';

const HISTOGRAM_BINS = 24;
const PAIRS = 20_000;

export interface ShapeDescriptor {
  readonly volumeMm3: number;
  readonly areaMm2: number;
  /** Edges of the box, longest first, millimetres. */
  readonly box: readonly [number, number, number];
  /** Part of the pairs of surface points at each distance, up to the longest there was; sums up to 1. */
  readonly distances: readonly number[];
}

export interface Likeness {
  /** 0 for nothing in common, 1 for the same. */
  readonly score: number;
  readonly size: number;
  readonly proportions: number;
  readonly surface: number;
  readonly distances: number;
}

/** The same for the same mesh. `O(triangles + pairs)` */
export function describeShape(meshes: readonly TriangleMesh[]): ShapeDescriptor {
  const { volumeMm3, areaMm2, box } = massOf(meshes);
  const edges = ([0, 1, 2] as const).map((axis) => box.max[axis] - box.min[axis]).sort((a, b) => b - a);
  const [long = 0, middle = 0, short = 0] = edges;
  return { volumeMm3, areaMm2, box: [long, middle, short], distances: distanceHistogram(meshes) };
}

function distanceHistogram(meshes: readonly TriangleMesh[]): number[] {
  const surface = new Surface(meshes);
  const random = randomFrom(1);
  const lengths = Float64Array.from({ length: PAIRS }, () => {
    const [a, b] = [surface.point(random), surface.point(random)];
    return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
  });
  const longest = lengths.reduce((most, length) => Math.max(most, length), 0);
  const bins = new Array<number>(HISTOGRAM_BINS).fill(0);
  for (const length of lengths) {
    const bin =
      longest === 0 ? 0 : Math.min(HISTOGRAM_BINS - 1, Math.floor((length / longest) * HISTOGRAM_BINS));
    bins[bin] = (bins[bin] ?? 0) + 1 / PAIRS;
  }
  return bins;
}

type Point = readonly [number, number, number];

/** Triangles to draw points from, as likely as they are large. */
class Surface {
  private readonly triangles: (readonly [Point, Point, Point])[] = [];
  private readonly areasUpTo: number[] = [];
  private total = 0;

  constructor(meshes: readonly TriangleMesh[]) {
    for (const { positions, indices } of meshes) {
      const corner = (at: number): Point => {
        const start = (indices[at] ?? 0) * 3;
        return [positions[start] ?? 0, positions[start + 1] ?? 0, positions[start + 2] ?? 0];
      };
      for (let at = 0; at + 2 < indices.length; at += 3) {
        const [a, b, c] = [corner(at), corner(at + 1), corner(at + 2)];
        const [u, v] = [minus(b, a), minus(c, a)];
        this.total +=
          Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
        this.triangles.push([a, b, c]);
        this.areasUpTo.push(this.total);
      }
    }
  }

  point(random: () => number): Point {
    const wanted = random() * this.total;
    let [low, high] = [0, this.triangles.length - 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.areasUpTo[middle] ?? 0) < wanted) low = middle + 1;
      else high = middle;
    }
    const triangle = this.triangles[low];
    if (!triangle) return [0, 0, 0];
    const [a, b, c] = triangle;
    // Evenly over the triangle: formula (1) of the paper.
    const root = Math.sqrt(random());
    const along = random();
    const [x, y, z] = [1 - root, root * (1 - along), root * along];
    return [a[0] * x + b[0] * y + c[0] * z, a[1] * x + b[1] * y + c[1] * z, a[2] * x + b[2] * y + c[2] * z];
  }
}

function minus(a: Point, b: Point): Point {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
}

/** Numbers from 0 up to 1, the same each time: mulberry32, a public-domain generator. */
function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

const WEIGHTS = { size: 0.2, proportions: 0.25, surface: 0.15, distances: 0.4 } as const;

/** Says the same either way round. */
export function likenessOf(a: ShapeDescriptor, b: ShapeDescriptor): Likeness {
  const size = Math.cbrt(ratio(a.volumeMm3, b.volumeMm3));
  const proportions = 1 - (difference(a, b, 1) + difference(a, b, 2)) / 2;
  const surface = ratio(fullness(a), fullness(b));
  // Half the sum of differences is the part of the pairs that lies elsewhere.
  const apart = a.distances.reduce((sum, part, bin) => sum + Math.abs(part - (b.distances[bin] ?? 0)), 0) / 2;
  const distances = 1 - apart;
  return {
    score:
      WEIGHTS.size * size +
      WEIGHTS.proportions * proportions +
      WEIGHTS.surface * surface +
      WEIGHTS.distances * distances,
    size,
    proportions,
    surface,
    distances,
  };
}

/** Volume for the surface there is; 1 for a ball. */
function fullness({ volumeMm3, areaMm2 }: ShapeDescriptor): number {
  return areaMm2 === 0 ? 0 : (36 * Math.PI * volumeMm3 ** 2) / areaMm2 ** 3;
}

function difference(a: ShapeDescriptor, b: ShapeDescriptor, edge: 1 | 2): number {
  const relative = ({ box }: ShapeDescriptor): number => (box[0] === 0 ? 0 : box[edge] / box[0]);
  return Math.abs(relative(a) - relative(b));
}

/** The smaller in the larger; 1 where both are nothing. */
function ratio(a: number, b: number): number {
  const large = Math.max(a, b);
  return large === 0 ? 1 : Math.min(a, b) / large;
}

/** Length of `shapeVector`. */
export const SHAPE_DIMENSIONS = 5 + HISTOGRAM_BINS;

/**
 * A point for looking up what lies near: near points are like shapes, though their distance is not the score. Features are
 * stretched by how much they count.
 */
export function shapeVector(shape: ShapeDescriptor): number[] {
  const [long, middle, short] = shape.box;
  const log = (value: number): number => Math.log10(Math.max(value, 1e-6));
  let below = 0;
  return [
    log(shape.volumeMm3) * 0.15,
    log(shape.areaMm2) * 0.1,
    (long === 0 ? 0 : middle / long) * 0.5,
    (long === 0 ? 0 : short / long) * 0.5,
    fullness(shape) * 0.3,
    // Sums up to each bin, so that a shape a little longer stays near.
    ...shape.distances.map((part) => (below += part) * 0.25),
  ];
}
