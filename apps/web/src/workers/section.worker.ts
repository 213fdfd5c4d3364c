/** Cuts the bodies of a picture; each is made ready for that once. */
import {
  outlinesOf,
  solidBody,
  type Body,
  type Outline,
  type SectionPlane,
  type SolidBody,
} from '@stem-trace/core/look';

export type CutAsked =
  | { readonly kind: 'bodies'; readonly bodies: readonly (Body | undefined)[] }
  | {
      readonly kind: 'cut';
      readonly id: number;
      readonly placed: readonly { readonly mesh: number; readonly at: readonly number[] }[];
      readonly planes: readonly SectionPlane[];
    };

export interface CutAnswer {
  readonly id: number;
  /** Of each plane; `of` is the place in what was placed. */
  readonly outlines: readonly (readonly Outline[])[];
}

let bodies: readonly (Body | undefined)[] = [];
const solids = new Map<number, SolidBody>();

self.onmessage = ({ data }: MessageEvent<CutAsked>): void => {
  if (data.kind === 'bodies') {
    bodies = data.bodies;
    solids.clear();
    return;
  }
  const placed = data.placed.flatMap(({ mesh, at }, of) => {
    const body = solidOf(mesh);
    return body ? [{ of, body, at }] : [];
  });
  const outlines = data.planes.map((plane) =>
    outlinesOf(placed, plane).map((outline) => ({ ...outline, of: placed[outline.of]?.of ?? -1 })),
  );
  self.postMessage({ id: data.id, outlines } satisfies CutAnswer);
};

function solidOf(mesh: number): SolidBody | undefined {
  const body = bodies[mesh];
  const known = solids.get(mesh) ?? (body && solidBody(body));
  if (known) solids.set(mesh, known);
  return known;
}
