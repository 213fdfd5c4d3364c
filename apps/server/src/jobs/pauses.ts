import { Injectable } from '@nestjs/common';

/** How often it is looked whether it is quiet yet. */
const LOOK_MS = 250;

/** Knows when somebody last asked the server for anything, so that work nobody waits for can give way. */
@Injectable()
export class Pauses {
  private askedMs = -Infinity;

  constructor(private readonly now: () => number = () => performance.now()) {}

  noteAsked(): void {
    this.askedMs = this.now();
  }

  /** Comes back once nobody has asked for `quietMs`, and after `mostMs` in any case: the work is not put off for ever. */
  async wait({ quietMs, mostMs }: { readonly quietMs: number; readonly mostMs: number }): Promise<void> {
    const until = this.now() + mostMs;
    while (this.now() - this.askedMs < quietMs && this.now() < until)
      await new Promise((done) => setTimeout(done, LOOK_MS).unref());
  }
}
