import { Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';

/** Does something as soon as the server is there, and again every so often; what fails is logged, and done at the next turn. */
export abstract class Recurring implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger: Logger;
  private timer: NodeJS.Timeout | undefined;

  /** @param inBackground whether this server does anything that nobody asks it for */
  protected constructor(
    private readonly inBackground: boolean,
    name: string,
    private readonly everyMs: number,
  ) {
    this.logger = new Logger(name);
  }

  protected abstract work(): Promise<unknown>;

  onApplicationBootstrap(): void {
    if (!this.inBackground) return;
    this.timer = setInterval(() => void this.once(), this.everyMs).unref();
    void this.once();
  }

  onModuleDestroy(): void {
    clearInterval(this.timer);
  }

  private async once(): Promise<void> {
    try {
      await this.work();
    } catch (error) {
      this.logger.warn(String(error));
    }
  }
}
