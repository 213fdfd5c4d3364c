import { base, type FileFormat, type FileReading, type Renaming } from '@stem-trace/core';
import { documentReading, readDocument } from './documents/read.js';
import { recognise } from './documents/recognise.js';
import { readDxf } from './dxf/read.js';
import { rewriteDxf } from './dxf/rewrite.js';
import { KeptWhole } from './errors.js';
import { readStep } from './step/read.js';
import { rewriteStep } from './step/rewrite.js';

/**
 * Reads a file of any kind: what can be read is read, the rest is kept whole, with the reason.
 *
 * @param path what the file is called
 * @throws FormatError where a file of a kind that can be read is broken
 */
export async function readFile(bytes: Uint8Array, path: string): Promise<FileReading> {
  const format = recognise(path, bytes);
  try {
    return await readAs(format, bytes, path);
  } catch (error) {
    if (!(error instanceof KeptWhole)) throw error;
    const reading = documentReading(format, {});
    const products = reading.products.map((product) => ({
      ...product,
      kind: format === 'dxf' ? ('drawing' as const) : product.kind,
    }));
    return { ...reading, products, unread: error.reason };
  }
}

async function readAs(format: FileFormat, bytes: Uint8Array, path: string): Promise<FileReading> {
  if (format === 'step') return readStep(bytes, base(path));
  if (format === 'dxf') return readDxf(bytes, base(path));
  return readDocument(bytes, format);
}

/**
 * New names for a stored file on its way out, where its format is one whose text can be changed.
 *
 * @param path what the file was called when it was stored
 */
export function rewriteFile(
  bytes: Uint8Array,
  path: string,
  renaming: Renaming,
): { bytes: Uint8Array; changed: number } {
  const format = recognise(path, bytes);
  if (format === 'step') return rewriteStep(bytes, renaming, path);
  if (format === 'dxf') return rewriteDxf(bytes, renaming);
  return { bytes, changed: 0 };
}
