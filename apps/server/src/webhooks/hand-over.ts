/** Posting what happened to another program, signed, so that it can tell that it comes from this store and was not changed. */
import { createHmac } from 'node:crypto';

const ANSWER_MS = 10_000;
const MOST_SAID = 200;

export interface Delivery {
  readonly id: string;
  readonly kind: string;
  /** JSON. */
  readonly body: string;
  /** Seconds since 1970. */
  readonly time: number;
}

/** HMAC with SHA-256 (RFC 2104, FIPS 180-4) over time, id and body with full stops between, in hexadecimal digits. */
export function seal({ id, body, time }: Omit<Delivery, 'kind'>, secret: string): string {
  return createHmac('sha256', secret).update(`${time}.${id}.${body}`, 'utf8').digest('hex');
}

/** @throws Error that says in words why it was not taken */
export async function handOver(address: string, secret: string, delivery: Delivery): Promise<void> {
  const { id, kind, body, time } = delivery;
  let response: Response;
  try {
    response = await fetch(address, {
      method: 'POST',
      headers: {
        'Content-Type': 'application/json',
        'Stem-Event': kind,
        'Stem-Delivery': id,
        'Stem-Time': String(time),
        'Stem-Seal': `sha256=${seal(delivery, secret)}`,
      },
      body,
      redirect: 'error',
      signal: AbortSignal.timeout(ANSWER_MS),
    });
  } catch (error) {
    throw new Error(`It does not answer: ${reasonOf(error)}`, { cause: error });
  }
  // What it says is of interest only where it refuses; whatever it sends, little of it is read.
  const said = response.ok ? '' : await beginning(response);
  await response.body?.cancel().catch(() => undefined);
  if (!response.ok) throw new Error(`It answered ${response.status}${said === '' ? '' : `: ${said}`}`);
}

/** What lies behind `fetch failed`, where that is known. */
function reasonOf(error: unknown): string {
  const { cause } = error instanceof Error ? error : { cause: undefined };
  if (cause instanceof Error && cause.message !== '') return cause.message;
  return error instanceof Error ? error.message : String(error);
}

async function beginning(response: Response): Promise<string> {
  const reader = response.body?.getReader();
  if (!reader) return '';
  const { value } = await reader.read().catch(() => ({ value: undefined }));
  reader.releaseLock();
  return value === undefined ? '' : new TextDecoder().decode(value).slice(0, MOST_SAID).trim();
}
