import type { InlineThread, WorkOptions } from './work-host.js';

/** How work is done in this thread where it is not done on others; it knows the services, which stand above this room. */
export class InlineWork {
  constructor(readonly compose: ((options: WorkOptions) => InlineThread) | undefined) {}
}
