import { StreamableFile } from '@nestjs/common';
import type { FileAnswer } from '@stem-trace/contract';
import type { Response } from 'express';

/** Sends a file that was made, to be saved under its name (RFC 6266, RFC 8187). */
export function sendFile(response: Response, { name, media, base64 }: FileAnswer): StreamableFile {
  response.set({
    'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
    'Cache-Control': 'private, no-store',
  });
  return new StreamableFile(Buffer.from(base64, 'base64'), { type: media });
}
