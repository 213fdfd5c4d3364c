import type { Body, Deviation } from '@stem-trace/core/look';
import { useQuery } from '@tanstack/react-query';
import { BufferAttribute, Color } from 'three';
import { askOnce } from '../../../workers/ask-once.js';
import type { DeviationAsked, Deviations } from '../../../workers/deviation.worker.js';
import type { LookMesh } from '../model/look-mesh.js';

/** How far both meshes of a pair lie from each other; worked out when asked for. */
export function useDeviation(
  key: string,
  meshes: { readonly first: LookMesh; readonly second: LookMesh } | undefined,
): Deviations | undefined {
  const query = useQuery({
    queryKey: ['deviation', key],
    queryFn: () =>
      meshes
        ? worked(meshes.first.shape, meshes.second.shape)
        : Promise.reject(new Error('nothing to compare')),
    enabled: meshes !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return meshes ? query.data : undefined;
}

function worked(first: Body, second: Body): Promise<Deviations> {
  const worker = new Worker(new URL('../../../workers/deviation.worker.ts', import.meta.url), {
    type: 'module',
  });
  return askOnce<DeviationAsked, Deviations>(worker, { first, second });
}

/** From nothing to the most. */
const SCALE = ['#c9d1d4', '#d9b02f', '#c8743c', '#a33a5e'].map((colour) => new Color(colour));

/** Between both, whichever way it is measured, millimetres. */
export function mostOf({ first, second }: Deviations): number {
  return Math.max(first.mostMm, second.mostMm);
}

/**
 * A mesh whose corners have the colour of how far they lie off.
 *
 * @param mostMm what has the last colour
 */
export function withColours(mesh: LookMesh, { ofCorners, toleranceMm }: Deviation, mostMm: number): LookMesh {
  let first = 0;
  const parts = mesh.parts.map((part) => {
    const geometry = part.geometry.clone();
    geometry.boundsTree = part.geometry.boundsTree;
    const count = geometry.getAttribute('position').count;
    const colours = new Float32Array(count * 3);
    for (let at = 0; at < count; at++)
      shade(ofCorners[first + at] ?? 0, { mostMm, toleranceMm }).toArray(colours, at * 3);
    first += count;
    geometry.setAttribute('color', new BufferAttribute(colours, 3));
    return { ...part, geometry, coarser: [] };
  });
  return { ...mesh, parts };
}

/** What lies within the tolerance has the colour of nothing. */
export function shade(
  mm: number,
  { mostMm, toleranceMm }: { readonly mostMm: number; readonly toleranceMm: number },
): Color {
  const share = mm <= toleranceMm || mostMm <= toleranceMm ? 0 : (mm - toleranceMm) / (mostMm - toleranceMm);
  const step = Math.min(share, 1) * (SCALE.length - 1);
  const [low, high] = [SCALE[Math.floor(step)], SCALE[Math.ceil(step)]];
  return (low ?? new Color()).clone().lerp(high ?? new Color(), step - Math.floor(step));
}

/** The scale as CSS, for the legend. */
export const SCALE_CSS = `linear-gradient(90deg, ${SCALE.map((colour) => `#${colour.getHexString()}`).join(', ')})`;
