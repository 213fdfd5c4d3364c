/** How far one mesh lies from another, away from the thread that answers to keys. */
import { deviationOf, solidBody, type Body } from '@stem-trace/core/look';

export interface DeviationAsked {
  readonly one: Body;
  readonly other: Body;
}

self.onmessage = ({ data: { one, other } }: MessageEvent<DeviationAsked>): void =>
  self.postMessage(deviationOf(solidBody(one), solidBody(other)));
