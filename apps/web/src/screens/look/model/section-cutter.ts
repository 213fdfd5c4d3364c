/** Sections, worked out away from the thread that answers to keys; only the newest that were asked for. */
import type { Body, FilledSection, Outline, SectionPlane } from '@stem-trace/core/look';
import type { CutAnswer, CutAsked, CutPlace } from '../../../workers/section.worker.js';

export class SectionCutter {
  private worker: Worker | undefined;
  private newest = 0;
  private questions = 0;
  private isBusy = false;
  private waiting: (() => void) | undefined;
  private readonly bodies = new Map<number, Body>();
  private places: readonly CutPlace[] = [];
  private readonly asked = new Map<number, (outlines: readonly Outline[]) => void>();

  /** @param onCut what closes the bodies, of each plane that was asked for last */
  constructor(private readonly onCut: (filled: readonly FilledSection[]) => void) {}

  /** What a mesh is, or what it is now. */
  know(mesh: number, body: Body): void {
    this.bodies.set(mesh, body);
    this.worker?.postMessage({ kind: 'body', mesh, body } satisfies CutAsked);
  }

  /** What is cut from now on. */
  place(places: readonly CutPlace[]): void {
    this.places = places;
    this.worker?.postMessage({ kind: 'places', places } satisfies CutAsked);
  }

  /** Forgets what was asked before and has not been begun. */
  cut(planes: readonly SectionPlane[]): void {
    const id = ++this.newest;
    const send = (): void => {
      this.isBusy = true;
      this.begun().postMessage({ kind: 'cut', id, planes } satisfies CutAsked);
    };
    if (this.isBusy) this.waiting = send;
    else send();
  }

  /** The lines in which a plane cuts what is placed. */
  outlines(plane: SectionPlane): Promise<readonly Outline[]> {
    const id = ++this.questions;
    return new Promise((done) => {
      this.asked.set(id, done);
      this.begun().postMessage({ kind: 'outlines', id, plane } satisfies CutAsked);
    });
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
    worker.onmessage = ({ data }: MessageEvent<CutAnswer>) => this.hear(data);
    this.worker = worker;
    for (const [mesh, body] of this.bodies) this.know(mesh, body);
    this.place(this.places);
    return worker;
  }

  private hear(data: CutAnswer): void {
    if (data.kind === 'outlines') {
      this.asked.get(data.id)?.(data.outlines);
      this.asked.delete(data.id);
      return;
    }
    this.isBusy = false;
    if (data.id === this.newest) this.onCut(data.filled);
    const next = this.waiting;
    this.waiting = undefined;
    next?.();
  }
}
