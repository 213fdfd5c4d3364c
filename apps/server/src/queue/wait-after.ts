/** A try that comes after so many that failed waits so long, in seconds: doubling, ten minutes at most. */
export function waitAfter(tries: number): number {
  return Math.min(600, 2 ** Math.min(tries, 10));
}
