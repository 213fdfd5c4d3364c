import {
  Injectable,
  StreamableFile,
  type CallHandler,
  type ExecutionContext,
  type NestInterceptor,
} from '@nestjs/common';
import { map, type Observable } from 'rxjs';
import { JsonBytes } from './json-bytes.js';

/** Sends answers that are JSON already as they are. */
@Injectable()
export class SendBytes implements NestInterceptor {
  intercept(_: ExecutionContext, next: CallHandler): Observable<unknown> {
    return next
      .handle()
      .pipe(
        map((answer: unknown) =>
          answer instanceof JsonBytes
            ? new StreamableFile(answer.bytes, { type: 'application/json; charset=utf-8' })
            : answer,
        ),
      );
  }
}
