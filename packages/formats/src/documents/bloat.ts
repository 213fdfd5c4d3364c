import { FormatError } from '../errors.js';
import { fromBuffer, type Entry, type ZipFile } from 'yauzl';

/** Most bytes that an office document may unpack to. */
const MAX_UNPACKED = 300_000_000;

/** Takes the bytes of one entry as they are unpacked. */
export interface EntryReader {
  /** What it throws ends the reading. */
  readonly write: (chunk: Buffer) => void;
}

/**
 * Refuses a zipped document that unpacks to more than it should, by unpacking it once and counting: what its directory
 * says of sizes is not to be trusted. `O(unpacked bytes)`, in little memory.
 *
 * @throws FormatError
 */
export async function refuseBloat(bytes: Uint8Array, most = MAX_UNPACKED): Promise<void> {
  let unpacked = 0;
  await eachEntry(bytes, () => ({
    write: (chunk) => {
      unpacked += chunk.length;
      if (unpacked > most) throw new FormatError(`the file unpacks to more than ${most / 1e6} MB`, 0);
    },
  }));
}

/**
 * Unpacks the entries of a ZIP archive one after another.
 *
 * @param readerOf reader of an entry by its name; undefined passes over it
 * @throws FormatError if it cannot be unpacked, or a reader fails
 */
export async function eachEntry(
  bytes: Uint8Array,
  readerOf: (name: string) => EntryReader | undefined,
): Promise<void> {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  await new Promise<void>((done, fail) => {
    const refuse = (error: Error): void =>
      fail(
        error instanceof FormatError
          ? error
          : new FormatError(`the file cannot be unpacked (${error.message})`, 0),
      );
    fromBuffer(buffer, { lazyEntries: true }, (error: Error | null, archive: ZipFile) => {
      if (error) {
        refuse(error);
        return;
      }
      archive.on('error', refuse);
      archive.on('end', () => done());
      archive.on('entry', (entry: Entry) => {
        const reader = readerOf(entry.fileName);
        if (!reader) {
          archive.readEntry();
          return;
        }
        archive.openReadStream(entry, (openError, stream) => {
          if (openError) {
            refuse(openError);
            return;
          }
          stream.on('error', refuse);
          stream.on('data', (chunk: Buffer) => {
            try {
              reader.write(chunk);
            } catch (readError) {
              stream.destroy();
              refuse(readError instanceof Error ? readError : new Error(String(readError)));
            }
          });
          stream.on('end', () => archive.readEntry());
        });
      });
      archive.readEntry();
    });
  });
}
