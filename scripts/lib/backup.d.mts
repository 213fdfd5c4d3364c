export type Counts = Readonly<Record<string, number>>;

export function backUp(options: { bin: string; url: string; blobs: string; to: string }): Promise<Counts>;
export function restore(options: { bin: string; url: string; blobs: string; from: string }): Promise<Counts>;
