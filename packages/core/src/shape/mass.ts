/** A triangle mesh: positions as x, y, z in millimetres, three indices a triangle. */
export interface TriangleMesh {
  readonly positions: ArrayLike<number>;
  readonly indices: ArrayLike<number>;
}

export interface MeshMass {
  readonly volumeMm3: number;
  readonly areaMm2: number;
  /** Corners of the box around it, millimetres. */
  readonly box: {
    readonly min: readonly [number, number, number];
    readonly max: readonly [number, number, number];
  };
}

/**
 * Volume, surface and box of closed meshes: the volume as the sum of signed tetrahedra (divergence theorem) from
 * a corner of the body itself, since from far away small differences of large numbers would be left. A mesh that is not closed gives a volume that means nothing. `O(triangles)`.
 */
export function massOf(meshes: readonly TriangleMesh[]): MeshMass {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  let volume = 0;
  let area = 0;
  for (const { positions, indices } of meshes) {
    const corner = [positions[0] ?? 0, positions[1] ?? 0, positions[2] ?? 0] as const;
    const at = (index: number, axis: 0 | 1 | 2): number =>
      (positions[(indices[index] ?? 0) * 3 + axis] ?? 0) - corner[axis];
    for (let i = 0; i + 2 < indices.length; i += 3) {
      const [ax, ay, az] = [at(i, 0), at(i, 1), at(i, 2)];
      const [bx, by, bz] = [at(i + 1, 0), at(i + 1, 1), at(i + 1, 2)];
      const [cx, cy, cz] = [at(i + 2, 0), at(i + 2, 1), at(i + 2, 2)];
      volume += (ax * (by * cz - bz * cy) - ay * (bx * cz - bz * cx) + az * (bx * cy - by * cx)) / 6;
      const [ux, uy, uz, vx, vy, vz] = [bx - ax, by - ay, bz - az, cx - ax, cy - ay, cz - az];
      area += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
    }
    for (let i = 0; i < positions.length; i++) {
      const axis = (i % 3) as 0 | 1 | 2;
      const value = positions[i] ?? 0;
      if (value < min[axis]) min[axis] = value;
      if (value > max[axis]) max[axis] = value;
    }
  }
  return { volumeMm3: Math.abs(volume), areaMm2: area, box: { min, max } };
}
