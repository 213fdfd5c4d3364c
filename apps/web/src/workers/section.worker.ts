/** Cuts the bodies of a picture; each is made ready for that once. */
import {
  filledOf,
  outlinesOf,
  solidBody,
  type Body,
  type FilledSection,
  type Outline,
  type PlacedBody,
  type SectionPlane,
  type SolidBody,
} from '@stem-trace/core/look';

export interface CutPlace {
  readonly mesh: number;
  readonly at: readonly number[];
}

export type CutAsked =
  | { readonly kind: 'body'; readonly mesh: number; readonly body: Body }
  | { readonly kind: 'places'; readonly places: readonly CutPlace[] }
  | { readonly kind: 'cut'; readonly id: number; readonly planes: readonly SectionPlane[] }
  | { readonly kind: 'outlines'; readonly id: number; readonly plane: SectionPlane };

/** `of` is the place in what was placed. */
export type CutAnswer =
  | { readonly kind: 'cut'; readonly id: number; readonly filled: readonly FilledSection[] }
  | { readonly kind: 'outlines'; readonly id: number; readonly outlines: readonly Outline[] };

const bodies = new Map<number, Body>();
const solids = new Map<number, SolidBody>();
let places: readonly CutPlace[] = [];

self.onmessage = ({ data }: MessageEvent<CutAsked>): void => {
  switch (data.kind) {
    case 'body':
      bodies.set(data.mesh, data.body);
      solids.delete(data.mesh);
      return;
    case 'places':
      places = data.places;
      return;
    case 'outlines':
      answer({ kind: 'outlines', id: data.id, outlines: outlines(data.plane) });
      return;
    case 'cut': {
      const filled = data.planes.map((plane) => filledOf(outlines(plane)));
      answer(
        { kind: 'cut', id: data.id, filled },
        filled.flatMap((each) =>
          [each.corners, each.of, each.triangles, each.lines].map(({ buffer }) => buffer),
        ),
      );
    }
  }
};

function answer(message: CutAnswer, transfer: Transferable[] = []): void {
  self.postMessage(message, { transfer });
}

function outlines(plane: SectionPlane): Outline[] {
  const placed = places.flatMap(({ mesh, at }, of): (PlacedBody & { of: number })[] => {
    const body = solidOf(mesh);
    return body ? [{ of, body, at }] : [];
  });
  return outlinesOf(placed, plane).map((outline) => ({ ...outline, of: placed[outline.of]?.of ?? -1 }));
}

function solidOf(mesh: number): SolidBody | undefined {
  const body = bodies.get(mesh);
  const known = solids.get(mesh) ?? (body && solidBody(body));
  if (known) solids.set(mesh, known);
  return known;
}
