/** Characters that XML 1.0 (2.2) has no place for, not even as references. */
const IMPOSSIBLE =
  // eslint-disable-next-line no-control-regex -- these are what is meant
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** A text with what XML cannot say replaced. */
export function xmlText(value: string): string {
  return value.replace(IMPOSSIBLE, '\ufffd');
}
