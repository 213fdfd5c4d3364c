/** Looking at geometry, apart from the rest of the core: what works on triangles is large, and little else needs it. */
export { solidBody, type Body, type FaceRange, type SolidBody } from './body.js';
export { betweenSurfaces, type Between } from './measure.js';
export { near, type Near, type NearKind, type PlacedBody, type Point } from './near.js';
export {
  frameOf,
  outlinesOf,
  type Outline,
  type SectionFrame,
  type SectionPlane,
  type SectionPoint,
} from './section.js';
export { placedSurface, surfaceOf, type Surface } from './surface.js';
