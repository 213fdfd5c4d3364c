/** Reads drawings away from the thread that answers to keys. */
import { drawingOf } from '@stem-trace/formats/drawing';
import type { Drawing } from '@stem-trace/core/sheet';

export type DrawingRead = { readonly drawing: Drawing } | { readonly says: string };

export interface DrawingAsked {
  readonly id: number;
  readonly url: string;
  /** Drawings that it may draw on. */
  readonly others: readonly { readonly name: string; readonly url: string }[];
}

self.onmessage = ({ data }: MessageEvent<DrawingAsked>): void => {
  void read(data).then((answer) => self.postMessage({ id: data.id, answer }));
};

async function read({ url, others }: DrawingAsked): Promise<DrawingRead> {
  try {
    const bytes = await bytesAt(url);
    if (!bytes) return { says: 'its file did not come' };
    const found = await Promise.all(
      others.map(async (each) => ({ ...each, bytes: await bytesAt(each.url) })),
    );
    return {
      drawing: drawingOf(
        bytes,
        found.flatMap(({ name, bytes: own }) => (own ? [{ name, bytes: own }] : [])),
      ),
    };
  } catch (error) {
    return { says: error instanceof Error ? error.message : String(error) };
  }
}

async function bytesAt(url: string): Promise<Uint8Array | undefined> {
  const response = await fetch(url);
  return response.ok ? new Uint8Array(await response.arrayBuffer()) : undefined;
}
