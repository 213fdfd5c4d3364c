/** With a capital at the beginning, as a button or a title wants it. */
export function capital(text: string): string {
  return text.slice(0, 1).toUpperCase() + text.slice(1);
}
