import { MOST_BODY_BYTES, type RouteFacts } from '@stem-trace/contract';
import type { RouteInput } from '@stem-trace/contract/schemas';
import type { Request } from 'express';
import getRawBody from 'raw-body';
import { ProblemError } from '../problems/problem.js';

/**
 * Reads the JSON that a route takes, once it is known who sends it, and no more of it than the route allows.
 *
 * @throws ProblemError FILE_TOO_LARGE, before a byte is read where the sender says how many there are; INPUT_INVALID
 */
export async function readBody(
  request: Request,
  { mostBytes = MOST_BODY_BYTES }: RouteFacts,
  { body }: RouteInput,
): Promise<void> {
  if (!body) return;
  const said = Number(request.headers['content-length'] ?? 0);
  if (said > mostBytes) throw tooLarge(mostBytes);
  const bytes = await getRawBody(request, { limit: mostBytes }).catch((error: unknown) => {
    throw isTooLarge(error) ? tooLarge(mostBytes) : error;
  });
  if (bytes.length === 0) return;
  try {
    request.body = JSON.parse(bytes.toString('utf8')) as unknown;
  } catch (error) {
    const says = error instanceof Error ? error.message.slice(0, 200) : '';
    throw new ProblemError('INPUT_INVALID', `What was sent is no JSON: ${says}. Nothing was changed.`);
  }
}

/** @throws ProblemError FILE_TOO_LARGE where the sender says that there is more than the route takes */
export function refuseLongUpload({ headers }: Request, { upload }: RouteFacts): void {
  if (upload && Number(headers['content-length'] ?? 0) > upload.mostBytes) throw tooLarge(upload.mostBytes);
}

function tooLarge(mostBytes: number): ProblemError {
  return new ProblemError(
    'FILE_TOO_LARGE',
    `At most ${mostBytes.toLocaleString('en-GB')} bytes can be sent here. Nothing was kept; send less at once.`,
  );
}

function isTooLarge(error: unknown): boolean {
  return error instanceof Error && 'type' in error && error.type === 'entity.too.large';
}

/** The bytes of a body that is sent as it is. @throws ProblemError FILE_TOO_LARGE */
export async function readUpload(request: Request, mostBytes: number): Promise<Uint8Array> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > mostBytes) throw tooLarge(mostBytes);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}
