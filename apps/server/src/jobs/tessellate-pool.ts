import type { MeshMass, ShapeDescriptor } from '@stem-trace/core';
import { ProblemError } from '../problems/problem.js';
import { ProcessPool, RanWild, type ProcessLimits } from './process-pool.js';

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

const LIMITS: ProcessLimits = { timeMs: 180_000, memoryMb: 4096 };

/** Turns design files into meshes in a process of its own, since the geometry kernel takes its time and memory. */
export class TessellatePool {
  private readonly pool: ProcessPool<TessellateTask, Tessellated>;

  constructor(private readonly limits: ProcessLimits = LIMITS) {
    this.pool = new ProcessPool({ script: 'tessellate.process', processes: 1, limits });
  }

  /** @throws ProblemError TOO_COSTLY where the kernel runs wild over it */
  async tessellate(task: TessellateTask): Promise<Tessellated> {
    try {
      return await this.pool.run(task);
    } catch (error) {
      if (!(error instanceof RanWild)) throw error;
      throw new ProblemError(
        'TOO_COSTLY',
        `The geometry of this file takes more than ${this.limits.timeMs / 1000} s or ${this.limits.memoryMb} MB to work out, so it has no picture. Its structure is not touched by that.`,
      );
    }
  }

  async close(): Promise<void> {
    await this.pool.close();
  }
}
