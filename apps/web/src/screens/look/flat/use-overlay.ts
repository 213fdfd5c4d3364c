import type { Drawing, Overlay, Sheet, SheetOverlay } from '@stem-trace/core/sheet';
import { useQuery } from '@tanstack/react-query';
import { askOnce } from '../../../workers/ask-once.js';
import type { OverlayAsked } from '../../../workers/overlay.worker.js';

interface Both<Kind> {
  readonly first: Kind;
  readonly second: Kind;
}

let lastId = 0;

/** Two states of a sheet compared, in a worker that ends with its answer. */
export function useOverlay(sheets: Both<Sheet> | undefined): Overlay | undefined {
  return useLaid<Overlay>(sheets && { of: 'sheets', ...sheets });
}

/** Two states of a whole drawing compared, sheet by sheet. */
export function useOverlays(drawings: Both<Drawing> | undefined): readonly SheetOverlay[] | undefined {
  return useLaid<readonly SheetOverlay[]>(drawings && { of: 'drawings', ...drawings });
}

function useLaid<Answer>(asked: OverlayAsked | undefined): Answer | undefined {
  const query = useQuery({
    // What is compared is as large as drawings; what is kept is known by which they are.
    queryKey: ['overlay', asked?.of, asked && keyOf(asked.first), asked && keyOf(asked.second)],
    queryFn: () =>
      asked ? askOnce<OverlayAsked, Answer>(begun(), asked) : Promise.reject(new Error('nothing to compare')),
    enabled: asked !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return asked ? query.data : undefined;
}

const keys = new WeakMap<object, number>();

function keyOf(compared: object): number {
  let key = keys.get(compared);
  if (key === undefined) keys.set(compared, (key = ++lastId));
  return key;
}

function begun(): Worker {
  return new Worker(new URL('../../../workers/overlay.worker.ts', import.meta.url), { type: 'module' });
}
