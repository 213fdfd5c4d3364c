/** Draws pictures that stand still; meshes are told once. */
import { stillOf, type StillPart, type StillView, type Tint } from '@stem-trace/core/look';

/** What has one colour in a file. */
export interface StillPiece {
  readonly positions: Float32Array;
  readonly indices: Uint32Array;
  readonly tint: Tint;
}

export interface StillPlace {
  readonly mesh: number;
  readonly at: readonly number[];
  readonly id: number;
  /** In place of the file's own colours. */
  readonly tint?: Tint;
}

export type StillAsked =
  | { readonly kind: 'mesh'; readonly mesh: number; readonly pieces: readonly StillPiece[] }
  | {
      readonly kind: 'draw';
      readonly id: number;
      readonly places: readonly StillPlace[];
      readonly view: StillView;
    };

export interface StillAnswer {
  readonly id: number;
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
  readonly ids: Int32Array;
}

const meshes = new Map<number, readonly StillPiece[]>();

self.onmessage = ({ data }: MessageEvent<StillAsked>): void => {
  if (data.kind === 'mesh') {
    meshes.set(data.mesh, data.pieces);
    return;
  }
  const parts = data.places.flatMap(({ mesh, at, id, tint }) =>
    (meshes.get(mesh) ?? []).map((piece): StillPart => ({ ...piece, at, id, tint: tint ?? piece.tint })),
  );
  const { pixels, ids } = stillOf(parts, data.view);
  self.postMessage({ id: data.id, pixels, ids } satisfies StillAnswer, {
    transfer: [pixels.buffer, ids.buffer],
  });
};
