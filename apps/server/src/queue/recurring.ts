import { Logger } from '@nestjs/common';

/** Does something as soon as the server is there, and again every so often; what fails is logged, and done at the next turn. */
export class Recurring {
  private readonly logger: Logger;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    name: string,
    private readonly everyMs: number,
    private readonly work: () => Promise<unknown>,
  ) {
    this.logger = new Logger(name);
  }

  begin(): void {
    this.timer = setInterval(() => void this.once(), this.everyMs).unref();
    void this.once();
  }

  end(): void {
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
