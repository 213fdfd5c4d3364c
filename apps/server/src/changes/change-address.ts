/** Where a change is looked at. */
export function changeAddress(number: string): string {
  return `/change?change=${encodeURIComponent(number)}`;
}
