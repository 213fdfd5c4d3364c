import { join } from 'node:path';
import type { GeometrySource } from '../queue/job.js';
import type { DescribedVersion } from '../store/catalogue.service.js';

/** Where a version's geometry is: one that lives in another's file is a part of that file's. */
export function geometryOf(version: DescribedVersion): GeometrySource {
  const { sha256, carrierVersion, productRef, nameInFile, idInFile } = version;
  if (carrierVersion === null) return { sha256, productRef: 0, names: [] };
  return { sha256, productRef, names: [nameInFile, idInFile].filter((name) => name !== '') };
}

/** One for each geometry, whatever items have it. */
export function keyOf({ sha256, productRef }: GeometrySource): string {
  return productRef === 0 ? sha256 : `${sha256}-${productRef}`;
}

/** Changes when meshes are made in another way, so that kept ones are made anew. */
const RECIPE = 'c';

/** Where the mesh of a geometry lies once it is made. */
export function meshPath(blobFolder: string, key: string): string {
  return join(blobFolder, 'meshes', `${key}-${RECIPE}.glb`);
}
