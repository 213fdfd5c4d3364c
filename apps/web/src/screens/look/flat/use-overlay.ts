import type { Overlay, Sheet } from '@stem-trace/core/sheet';
import { useQuery } from '@tanstack/react-query';
import { askOnce } from '../../../workers/ask-once.js';
import type { OverlayAsked } from '../../../workers/overlay.worker.js';

let lastId = 0;

/** Two states of a sheet compared, in a worker that ends with its answer. */
export function useOverlay(
  sheets: { readonly first: Sheet; readonly second: Sheet } | undefined,
): Overlay | undefined {
  const query = useQuery({
    // Sheets are as large as drawings; what is kept is known by which they are.
    queryKey: ['overlay', sheets && keyOf(sheets.first), sheets && keyOf(sheets.second)],
    queryFn: () => (sheets ? compared(sheets) : Promise.reject(new Error('nothing to compare'))),
    enabled: sheets !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return sheets ? query.data : undefined;
}

const keys = new WeakMap<Sheet, number>();

function keyOf(sheet: Sheet): number {
  let key = keys.get(sheet);
  if (key === undefined) keys.set(sheet, (key = ++lastId));
  return key;
}

function compared(sheets: OverlayAsked): Promise<Overlay> {
  const worker = new Worker(new URL('../../../workers/overlay.worker.ts', import.meta.url), {
    type: 'module',
  });
  return askOnce<OverlayAsked, Overlay>(worker, sheets);
}
