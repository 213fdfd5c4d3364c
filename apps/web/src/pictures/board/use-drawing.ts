import type { BesideRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import type { Drawing } from '@stem-trace/core/sheet';
import { addressOf } from '../../api/client.js';
import type { DrawingAsked, DrawingRead } from '../../workers/drawing.worker.js';

interface Waiting {
  readonly done: (answer: DrawingRead) => void;
}

let worker: Worker | undefined;
let lastId = 0;
const waiting = new Map<number, Waiting>();

/** One worker for all drawings; it is begun when the first is wanted. */
function begun(): Worker {
  if (worker) return worker;
  const made = new Worker(new URL('../../workers/drawing.worker.ts', import.meta.url), { type: 'module' });
  made.onmessage = ({ data }: MessageEvent<{ readonly id: number; readonly answer: DrawingRead }>): void => {
    waiting.get(data.id)?.done(data.answer);
    waiting.delete(data.id);
  };
  made.onerror = (): void => {
    worker = undefined;
    for (const { done } of waiting.values()) done({ says: 'Reading it took more than this browser has.' });
    waiting.clear();
  };
  worker = made;
  return made;
}

type Others = DrawingAsked['others'];

const absolute = (url: string): string => new URL(url, window.location.href).href;

async function read(url: string, others: Others): Promise<Drawing> {
  const id = ++lastId;
  const answered = new Promise<DrawingRead>((done) => waiting.set(id, { done }));
  begun().postMessage({
    ...{ id, url: absolute(url) },
    others: others.map((other) => ({ ...other, url: absolute(other.url) })),
  } satisfies DrawingAsked);
  const answer = await answered;
  if ('says' in answer) throw new Error(answer.says);
  return answer.drawing;
}

/** Drawings that a drawing draws on, for `useDrawing`. */
export function drawnOn(beside: readonly BesideRow[]): Others {
  return beside
    .filter(({ relation, isUser, kind }) => relation === 'draws on' && !isUser && kind === 'drawing')
    .map(({ number, version, fileName }) => ({
      ...{ name: fileName, url: addressOf('/api/file', { item: `${number}@${version}` }) },
    }));
}

/** What the drawing at an address shows. */
export function useDrawing(url: string, others: Others = []) {
  return useQuery({
    queryKey: ['drawing', url, others],
    queryFn: () => read(url, others),
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
    enabled: url !== '',
  });
}
