/** Names of files and folders that every system can hold, so that whatever came in can come out anywhere. */

/** Characters that some file system refuses, that archives treat as a path, or that cannot be seen. */
// eslint-disable-next-line no-control-regex -- control characters are what is looked for
const REFUSED = /[\u0000-\u001f\u007f-\u009f\u2028\u2029<>:"/\\|?*]/g;
/** Names of devices, whatever their ending (Win32 file naming conventions). */
const DEVICE = /^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])(?=\.|$)/i;
/** Bytes of UTF-8 that the usual file systems give a name. */
const MAX_BYTES = 240;

/**
 * A name as it is kept: what some system could not hold becomes `_`. A name that is fine comes back as it is.
 * `O(length)`.
 */
export function portableName(name: string): string {
  const safe = name
    .replace(REFUSED, '_')
    .replace(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '_')
    .replace(/[. ]+$/, (end) => '_'.repeat(end.length))
    .replace(/^ +/, (start) => '_'.repeat(start.length))
    .replace(DEVICE, '_$1');
  return shortened(safe === '' ? '_' : safe);
}

/** As `portableName`, for each part of a path with `/`. */
export function portablePath(path: string): string {
  return path
    .split('/')
    .map((part) => (part === '' ? part : portableName(part)))
    .join('/');
}

/** Two names that some system takes for one: capitals and Unicode form do not count. */
export function nameFold(name: string): string {
  return name.normalize('NFC').toLowerCase().normalize('NFC');
}

function shortened(name: string): string {
  if (utf8Length(name) <= MAX_BYTES) return name;
  const dot = name.lastIndexOf('.');
  const ending = dot > 0 && name.length - dot <= 16 ? name.slice(dot) : '';
  const points = Array.from(name.slice(0, name.length - ending.length));
  while (utf8Length(points.join('') + ending) > MAX_BYTES) points.pop();
  return `${points.join('').replace(/[. ]+$/, '_')}${ending}`;
}

/** Bytes that a text takes in UTF-8. */
function utf8Length(text: string): number {
  let bytes = 0;
  for (const point of text) {
    const code = point.codePointAt(0) ?? 0;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
  }
  return bytes;
}
