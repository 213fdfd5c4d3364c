/** How far two meshes lie from each other, away from the thread that answers to keys. */
import { deviationOf, solidBody, type Body, type Deviation } from '@stem-trace/core/look';

export interface DeviationAsked {
  readonly first: Body;
  readonly second: Body;
}

/** What only one of them has lies far from the other, and not the other way round. */
export interface Deviations {
  /** Of the corners of the first, from the second. */
  readonly first: Deviation;
  readonly second: Deviation;
}

self.onmessage = ({ data }: MessageEvent<DeviationAsked>): void => {
  const [first, second] = [solidBody(data.first), solidBody(data.second)];
  self.postMessage({
    first: deviationOf(first, second),
    second: deviationOf(second, first),
  } satisfies Deviations);
};
