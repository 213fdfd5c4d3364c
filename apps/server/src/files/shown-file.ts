/** A file that somebody brought in, on its way to a browser that shows it. */
import type { Readable } from 'node:stream';
import { StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import type { BlobStore } from '../blobs/blob-store.js';

/** Types that a browser shows by itself, or our own pictures are made from; anything else is handed out for saving. */
const TYPES: Readonly<Record<string, string>> = {
  dxf: 'application/dxf',
  pdf: 'application/pdf',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  bmp: 'image/bmp',
  svg: 'image/svg+xml',
  txt: 'text/plain; charset=utf-8',
};

const UNKNOWN = 'application/octet-stream';

export interface OpenedFile {
  readonly name: string;
  readonly type: string;
  readonly size: number;
  readonly etag: string;
  readonly content: Readable;
}

/** @param name which it goes by; its ending says what it is shown as */
export async function openBlob(blobs: BlobStore, sha256: string, name: string): Promise<OpenedFile> {
  const ending = name.slice(name.lastIndexOf('.') + 1).toLowerCase();
  return {
    name,
    type: TYPES[ending] ?? UNKNOWN,
    size: await blobs.sizeOf(sha256),
    etag: `"${sha256}"`,
    content: blobs.stream(sha256),
  };
}

/** Whatever is in it: it is shown, and never runs. */
export function showFile(
  response: Response,
  { name, type, size, content, etag }: OpenedFile,
): StreamableFile {
  response.set({
    ETag: etag,
    'Cache-Control': 'private, no-cache',
    'Content-Security-Policy': "sandbox; default-src 'none'; style-src 'unsafe-inline'",
    'Content-Disposition': `${type === UNKNOWN ? 'attachment' : 'inline'}; filename*=UTF-8''${encodeURIComponent(name)}`,
  });
  return new StreamableFile(content, { type, length: size });
}
