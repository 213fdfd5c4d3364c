import type { DerivePreview, DeriveRequest, PlanGround } from '@stem-trace/contract';
import type { AskedDecisions } from '@stem-trace/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import { send } from '../../api/client.js';
import type { PlanTask } from '../../workers/plan.worker.js';
import { changed, groundKey, type Planned, type PlannedChange } from './plan-again.js';

/** Decisions that follow one another faster are sent to the server as one. */
const REST_MS = 300;

export interface Preview {
  /** Of the request, or of the one before it until this is worked out. */
  readonly preview: DerivePreview | undefined;
  readonly error: Error | null;
}

/**
 * What a derivation would do. The server says it, with all that stands in the way; what a decision changes in the plan is worked
 * out here as well, so that nobody waits for it.
 */
export function usePreview(request: DeriveRequest | undefined): Preview {
  const again = usePlanAgain(request);
  const [rested] = useDebounce(request, again.isReady ? REST_MS : 0);
  const asked = again.isReady ? rested : request;
  const server = useQuery({
    queryKey: ['derive', asked],
    queryFn: ({ signal }) => send('POST', '/api/derive/preview', asked, signal),
    placeholderData: keepPreviousData,
    enabled: asked !== undefined,
  });
  const isAnswered = asked === request && server.data !== undefined && !server.isPlaceholderData;
  useEffect(() => {
    if (isAnswered && request) again.prepare(request);
  });
  const planned = again.planned;
  const preview =
    server.data && planned && !isAnswered && planned.request === request
      ? withPlan(server.data, planned.plan)
      : server.data;
  return { preview, error: server.error };
}

/** What stood in the way before and is not of the lines themselves does until the server says otherwise. */
function withPlan(before: DerivePreview, { lines, tree }: Planned): DerivePreview {
  const stops = before.hindrances.some(({ kind, stops: isInTheWay }) => isInTheWay && kind === 'file');
  return { ...before, lines, tree, ready: !stops && lines.every(({ clash }) => clash === null) };
}

interface PlanAgain {
  /** Whether decisions of the request are worked out here. */
  readonly isReady: boolean;
  readonly planned: { readonly request: DeriveRequest; readonly plan: Planned } | undefined;
  /** Gets what plans like that of a request are made from. */
  readonly prepare: (request: DeriveRequest) => void;
}

/** Plans worked out by a web worker. */
function usePlanAgain(request: DeriveRequest | undefined): PlanAgain {
  const [wanted, want] = useState<DeriveRequest>();
  const [planned, setPlanned] = useState<PlanAgain['planned']>();
  const key = wanted && groundKey(wanted);
  const ground = useQuery({
    queryKey: ['derive', 'ground', key],
    queryFn: ({ signal }) => send('POST', '/api/derive/ground', wanted, signal),
    enabled: wanted !== undefined,
    gcTime: 0,
    retry: false,
  });
  const worker = useRef<PlanWorker>(undefined);
  useEffect(() => {
    if (!ground.data) return undefined;
    const begun = new PlanWorker(ground.data);
    worker.current = begun;
    return () => {
      worker.current = undefined;
      begun.stop();
    };
  }, [ground.data]);
  const isReady = ground.data !== undefined && request !== undefined && groundKey(request) === key;
  useEffect(() => {
    if (!isReady) return;
    void worker.current?.plan(request).then((plan) => {
      if (plan) setPlanned({ request, plan });
    });
  }, [isReady, request, ground.data]);
  const prepare = (next: DeriveRequest): void => {
    if (typeof Worker !== 'undefined' && groundKey(next) !== key) want(next);
  };
  return { isReady, planned, prepare };
}

/** A worker that plans from one ground; what is asked for before it has answered takes the place of what was. */
class PlanWorker {
  private readonly worker = new Worker(new URL('../../workers/plan.worker.ts', import.meta.url), {
    type: 'module',
  });
  private plan0: Planned = { lines: [], tree: [] };
  private count = 0;
  private readonly waiting = new Map<number, (plan: Planned | undefined) => void>();

  constructor(ground: PlanGround) {
    this.worker.onmessage = ({
      data,
    }: MessageEvent<{ count: number; change: PlannedChange | undefined }>) => {
      if (data.change) this.plan0 = changed(this.plan0, data.change);
      this.waiting.get(data.count)?.(data.change && this.plan0);
      this.waiting.delete(data.count);
    };
    this.send({ ground });
  }

  /** @returns undefined where it cannot be planned here */
  plan(decisions: AskedDecisions): Promise<Planned | undefined> {
    const count = ++this.count;
    return new Promise((done) => {
      this.waiting.set(count, done);
      const { copy, alsoCopy, share, omit, swap, uses, renamed } = decisions;
      this.send({ count, decisions: { copy, alsoCopy, share, omit, swap, uses, renamed } });
    });
  }

  stop(): void {
    this.worker.terminate();
  }

  private send(task: PlanTask): void {
    this.worker.postMessage(task);
  }
}
