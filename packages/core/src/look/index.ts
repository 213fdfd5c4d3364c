/** Looking at geometry, apart from the rest of the core: what works on triangles is large, and little else needs it. */
export { solidBody, type Body, type FaceRange, type SolidBody } from './body.js';
export { deviationOf, type Deviation } from './deviation.js';
export { filledOf, nestedRings, type FilledSection, type NestedRing } from './filled.js';
export { bodyFigures, type BodyFigures } from './figures.js';
export { edgesOf, middleOf, placedEdge, type Edge } from './edges.js';
export { between, edgeDatum, surfaceDatum, type Between, type Datum } from './measure.js';
export { near, type Near, type NearKind, type PlacedBody, type Point } from './near.js';
export { overlapsOf, type OverlapOptions } from './overlaps.js';
export { pairUses, type DrawnUse, type UseChange, type UsePair } from './pair.js';
export {
  frameOf,
  outlinesOf,
  type Outline,
  type SectionFrame,
  type SectionPlane,
  type SectionPoint,
} from './section.js';
export { placedSurface, surfaceOf, type Surface } from './surface.js';
export { stillOf, type Still, type StillPart, type StillView, type Tint } from './still.js';
export { spreadOf, type SpreadUse } from './spread.js';
