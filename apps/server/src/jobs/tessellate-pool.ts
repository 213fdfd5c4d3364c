import { fileURLToPath } from 'node:url';
import type { MeshMass, ShapeDescriptor } from '@stem-trace/core';
import { Piscina } from 'piscina';

export interface TessellateTask {
  readonly file: string;
  /** What the file may call the one product that is wanted; all of the file where absent. */
  readonly names?: readonly string[];
}

export type Tessellated =
  | {
      readonly kind: 'mesh';
      readonly glb: Uint8Array;
      readonly mass: MeshMass;
      readonly shape: ShapeDescriptor;
    }
  /** The file has no geometry of its own. */
  | { readonly kind: 'nothing' };

const WORKER = fileURLToPath(new URL('./tessellate.worker.js', import.meta.url)).replace(
  '/src/jobs/',
  '/dist/jobs/',
);

/** Turns design files into meshes on a worker thread of its own, since the geometry kernel takes its time and memory. */
export class TessellatePool {
  private readonly pool = new Piscina<TessellateTask, Tessellated>({
    filename: WORKER,
    execArgv: [],
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 30_000,
    // Whoever waits for an answer goes first.
    niceIncrement: 10,
  });

  async tessellate(task: TessellateTask): Promise<Tessellated> {
    return this.pool.run(task);
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
