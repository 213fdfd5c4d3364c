/** Outlines of sections, worked out away from the thread that answers to keys; only the newest that were asked for. */
import type { Body, Outline, SectionPlane } from '@stem-trace/core/look';
import type { CutAnswer, CutAsked } from '../../../workers/section.worker.js';

export interface CutBody {
  /** Place in the list of meshes. */
  readonly mesh: number;
  readonly at: readonly number[];
}

export class SectionCutter {
  private worker: Worker | undefined;
  private newest = 0;
  private isBusy = false;
  private waiting: (() => void) | undefined;

  constructor(
    private readonly bodies: readonly (Body | undefined)[],
    private readonly onCut: (outlines: readonly (readonly Outline[])[]) => void,
  ) {}

  /** Forgets what was asked before and has not been begun. */
  cut(placed: readonly CutBody[], planes: readonly SectionPlane[]): void {
    const id = ++this.newest;
    const send = (): void => {
      this.isBusy = true;
      this.begun().postMessage({ kind: 'cut', id, placed, planes } satisfies CutAsked);
    };
    if (this.isBusy) this.waiting = send;
    else send();
  }

  /** Nothing is cut any more. */
  forget(): void {
    this.newest++;
    this.waiting = undefined;
  }

  end(): void {
    this.worker?.terminate();
    this.worker = undefined;
  }

  /** The worker, with all bodies, once there is something to cut. */
  private begun(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('../../../workers/section.worker.ts', import.meta.url), {
      type: 'module',
    });
    worker.postMessage({ kind: 'bodies', bodies: this.bodies } satisfies CutAsked);
    worker.onmessage = ({ data: { id, outlines } }: MessageEvent<CutAnswer>) => {
      this.isBusy = false;
      if (id === this.newest) this.onCut(outlines);
      const next = this.waiting;
      this.waiting = undefined;
      next?.();
    };
    this.worker = worker;
    return worker;
  }
}
