/** The planning system, wherever it is: takes the XML of released bills. */

const ANSWER_MS = 10_000;

/**
 * @param key of the release: what is sent twice under one key is taken once
 * @throws Error that says in words why planning did not take it
 */
export async function sendToPlanning(address: string, key: string, xml: string): Promise<void> {
  let response: Response;
  try {
    response = await fetch(new URL('/boms', address), {
      method: 'POST',
      headers: { 'Content-Type': 'application/xml', 'Idempotency-Key': key },
      body: xml,
      signal: AbortSignal.timeout(ANSWER_MS),
      redirect: 'error',
    });
  } catch (error) {
    throw new Error(`Planning does not answer: ${error instanceof Error ? error.message : String(error)}`, {
      cause: error,
    });
  }
  if (!response.ok)
    throw new Error(`Planning answered ${response.status}: ${(await response.text()).slice(0, 200)}`);
  await response.body?.cancel();
}
