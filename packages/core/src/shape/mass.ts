/** A triangle mesh: positions as x, y, z in millimetres, three indices a triangle. */
export interface TriangleMesh {
  readonly positions: ArrayLike<number>;
  readonly indices: ArrayLike<number>;
}

export interface MeshMass {
  readonly volumeMm3: number;
  readonly areaMm2: number;
  /** Of the volume; of the surface where that has none, millimetres. */
  readonly centre: readonly [number, number, number];
  /** Corners of the box around it, millimetres. */
  readonly box: {
    readonly min: readonly [number, number, number];
    readonly max: readonly [number, number, number];
  };
}

/**
 * Volume, surface, centre and box of closed meshes: the volume as the sum of signed tetrahedra (divergence theorem) from
 * a corner of the body itself, since from far away small differences of large numbers would be left. A mesh that is not closed gives a volume that means nothing. `O(triangles)`.
 */
export function massOf(meshes: readonly TriangleMesh[]): MeshMass {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  let volume = 0;
  let area = 0;
  const [{ positions: first } = { positions: [] }] = meshes;
  const origin = [first[0] ?? 0, first[1] ?? 0, first[2] ?? 0] as const;
  // Moments of the volume and of the surface, about the first corner of all.
  const moment: [number, number, number] = [0, 0, 0];
  const spread: [number, number, number] = [0, 0, 0];
  for (const { positions, indices } of meshes) {
    const corner = [positions[0] ?? 0, positions[1] ?? 0, positions[2] ?? 0] as const;
    const shift = corner.map((value, axis) => value - (origin[axis] ?? 0));
    const at = (index: number, axis: 0 | 1 | 2): number =>
      (positions[(indices[index] ?? 0) * 3 + axis] ?? 0) - corner[axis];
    for (let i = 0; i + 2 < indices.length; i += 3) {
      const [ax, ay, az] = [at(i, 0), at(i, 1), at(i, 2)];
      const [bx, by, bz] = [at(i + 1, 0), at(i + 1, 1), at(i + 1, 2)];
      const [cx, cy, cz] = [at(i + 2, 0), at(i + 2, 1), at(i + 2, 2)];
      const wedge = (ax * (by * cz - bz * cy) - ay * (bx * cz - bz * cx) + az * (bx * cy - by * cx)) / 6;
      volume += wedge;
      const [ux, uy, uz, vx, vy, vz] = [bx - ax, by - ay, bz - az, cx - ax, cy - ay, cz - az];
      const face = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
      area += face;
      // Of a tetrahedron a quarter of its corners' sum, its tip being zero; of a triangle a third.
      const sums = [ax + bx + cx, ay + by + cy, az + bz + cz];
      for (const axis of [0, 1, 2] as const) {
        moment[axis] += wedge * ((sums[axis] ?? 0) / 4 + (shift[axis] ?? 0));
        spread[axis] += face * ((sums[axis] ?? 0) / 3 + (shift[axis] ?? 0));
      }
    }
    for (let i = 0; i < positions.length; i++) {
      const axis = (i % 3) as 0 | 1 | 2;
      const value = positions[i] ?? 0;
      if (value < min[axis]) min[axis] = value;
      if (value > max[axis]) max[axis] = value;
    }
  }
  const axes = [0, 1, 2] as const;
  const inside = axes.map((axis) => origin[axis] + moment[axis] / volume);
  // The centre of a closed body lies in its box; what is not closed has a middle of its surface only.
  const isClosed = axes.every(
    (axis) => (inside[axis] ?? NaN) >= min[axis] && (inside[axis] ?? NaN) <= max[axis],
  );
  const at = (axis: 0 | 1 | 2): number =>
    isClosed ? (inside[axis] ?? 0) : origin[axis] + (area === 0 ? 0 : spread[axis] / area);
  return { volumeMm3: Math.abs(volume), areaMm2: area, centre: [at(0), at(1), at(2)], box: { min, max } };
}
