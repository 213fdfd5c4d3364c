import { FormatError } from '../errors.js';
import { fromBuffer, type Entry, type ZipFile } from 'yauzl';

/** Most bytes that an office document may unpack to. */
const MAX_UNPACKED = 300_000_000;

/**
 * Refuses a zipped document that unpacks to more than it should, by unpacking it once and counting: what its directory
 * says of sizes is not to be trusted. `O(unpacked bytes)`, in little memory.
 *
 * @throws FormatError
 */
export async function refuseBloat(bytes: Uint8Array, most = MAX_UNPACKED): Promise<void> {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let unpacked = 0;
  await new Promise<void>((done, fail) => {
    const refuse = (error: Error): void =>
      fail(new FormatError(`the file cannot be unpacked (${error.message})`, 0));
    fromBuffer(buffer, { lazyEntries: true }, (error: Error | null, archive: ZipFile) => {
      if (error) {
        refuse(error);
        return;
      }
      archive.on('error', refuse);
      archive.on('end', () => done());
      archive.on('entry', (entry: Entry) => {
        archive.openReadStream(entry, (openError, stream) => {
          if (openError) {
            refuse(openError);
            return;
          }
          stream.on('error', refuse);
          stream.on('data', (chunk: Buffer) => {
            unpacked += chunk.length;
            if (unpacked <= most) return;
            stream.destroy();
            fail(new FormatError(`the file unpacks to more than ${most / 1e6} MB`, 0));
          });
          stream.on('end', () => archive.readEntry());
        });
      });
      archive.readEntry();
    });
  });
}
