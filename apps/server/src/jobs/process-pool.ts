import { fileURLToPath } from 'node:url';
import workerpool, { type Pool } from 'workerpool';

export interface ProcessLimits {
  /** Of one task, from its start. */
  readonly timeMs: number;
  /** Of one process, all that it holds resident. */
  readonly memoryMb: number;
}

export interface ProcessPoolOptions {
  /** File of the process in this folder, without its ending. */
  readonly script: string;
  readonly processes: number;
  readonly limits: ProcessLimits;
}

/** What a task came to that ran wild. */
export class RanWild extends Error {
  constructor(readonly limit: 'time' | 'memory') {
    super(`a task was ended at its limit of ${limit}`);
    this.name = 'RanWild';
  }
}

/**
 * Processes for work on bytes that anybody may have written. What takes too long or too much memory is ended from
 * outside, kernel and all, and the next task gets a new process; this process is not touched by it.
 */
export class ProcessPool<Task, Result> {
  private readonly pool: Pool;
  private isClosed = false;

  constructor(private readonly options: ProcessPoolOptions) {
    const { script, processes, limits } = options;
    // Processes run built code, also where this module runs from its source under test.
    const file = fileURLToPath(new URL(`./${script}.js`, import.meta.url)).replace(
      '/src/jobs/',
      '/dist/jobs/',
    );
    this.pool = workerpool.pool(file, {
      workerType: 'process',
      maxWorkers: processes,
      forkOpts: {
        // Bytes and typed arrays go as they are.
        serialization: 'advanced',
        execArgv: [`--max-old-space-size=${limits.memoryMb}`],
        // No more than it needs: the server's own environment holds the way into the database.
        env: { PATH: process.env.PATH, STEM_PROCESS_MEMORY_MB: String(limits.memoryMb) },
      },
    });
  }

  /** @throws RanWild */
  async run(task: Task): Promise<Result> {
    const work = this.pool.exec('run', [task]).timeout(this.options.limits.timeMs);
    try {
      return (await work) as Result;
    } catch (error) {
      if (error instanceof workerpool.Promise.TimeoutError) throw new RanWild('time');
      if (!this.isClosed && error instanceof workerpool.TerminateError) throw new RanWild('memory');
      throw error;
    }
  }

  /** Ends the processes, whatever they are at. */
  async close(): Promise<void> {
    this.isClosed = true;
    await this.pool.terminate(true);
  }
}
