/**
 * Works plans out away from the page. In: a ground, then decisions, each with a count; out: for each of these the count and what
 * is other than in the plan before, or nothing where they cannot be planned from that ground.
 */
import type { PlanGround } from '@stem-trace/contract';
import type { AskedDecisions } from '@stem-trace/core';
import { Replanner } from '../screens/derive/plan-again.js';

export type PlanTask =
  { readonly ground: PlanGround } | { readonly count: number; readonly decisions: AskedDecisions };

let planner: Replanner | undefined;

self.onmessage = ({ data }: MessageEvent<PlanTask>): void => {
  if ('ground' in data) planner = new Replanner(data.ground);
  else self.postMessage({ count: data.count, change: tried(data.decisions) });
};

/** What stands in the way is said by the server, which is asked as well. */
function tried(decisions: AskedDecisions): ReturnType<Replanner['plan']> | undefined {
  try {
    return planner?.plan(decisions);
  } catch {
    return undefined;
  }
}
