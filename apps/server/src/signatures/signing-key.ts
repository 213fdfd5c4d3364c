import {
  createHash,
  createPrivateKey,
  createPublicKey,
  generateKeyPairSync,
  sign,
  verify,
  type KeyObject,
} from 'node:crypto';
import { link, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';

export const KEY_FILE = 'signing-key.pem';

/**
 * The key with which the server seals what people sign: Ed25519 (RFC 8032). It lies beside the blobs, not in the database, so that
 * whoever has only the database cannot make a signature, nor change one.
 */
export class SigningKey {
  private loaded: Promise<KeyObject> | undefined;

  constructor(private readonly folder: string) {}

  /** @returns base64 */
  async seal(text: string): Promise<string> {
    return sign(null, Buffer.from(text, 'utf8'), await this.key()).toString('base64');
  }

  async isSealed(text: string, seal: string): Promise<boolean> {
    const key = createPublicKey(await this.key());
    return verify(null, Buffer.from(text, 'utf8'), key, Buffer.from(seal, 'base64'));
  }

  /** Tells one key from another; says nothing of it. */
  async fingerprint(): Promise<string> {
    const der = createPublicKey(await this.key()).export({ type: 'spki', format: 'der' });
    return createHash('sha256').update(der).digest('hex').slice(0, 32);
  }

  private key(): Promise<KeyObject> {
    this.loaded ??= this.load();
    // What failed is tried anew.
    this.loaded.catch(() => (this.loaded = undefined));
    return this.loaded;
  }

  /** Makes one where there is none; of servers that do so at once, one is first, and all take that. */
  private async load(): Promise<KeyObject> {
    const path = join(this.folder, KEY_FILE);
    await mkdir(this.folder, { recursive: true });
    const own = join(this.folder, `${KEY_FILE}.${randomUUID()}`);
    try {
      return createPrivateKey(await readFile(path));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    }
    const { privateKey } = generateKeyPairSync('ed25519');
    await writeFile(own, privateKey.export({ type: 'pkcs8', format: 'pem' }), { mode: 0o600, flush: true });
    try {
      await link(own, path);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    } finally {
      await rm(own, { force: true });
    }
    return createPrivateKey(await readFile(path));
  }
}
