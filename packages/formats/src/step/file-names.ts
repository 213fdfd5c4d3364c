/** What a string is: the name of a file, and which. */

const ENDINGS =
  'stp|step|p21|stpz|stpx|igs|iges|brep|stl|obj|3mf|gltf|glb|wrl|dxf|dwg|svg|pdf|png|jpe?g|tiff?|bmp|gif|txt|csv|xlsx?|docx?|od[ts]|pptx?|zip';
const FILE = new RegExp(`[^\\s\\\\/:]\\.(${ENDINGS})$`, 'i');
const ENDING_AT_START = new RegExp(`^\\.(${ENDINGS})(?![\\p{L}\\p{N}])`, 'iu');
const DESIGN_FILE = /\.(stp|step|p21|stpz|stpx)$/i;

/** Whether a string is the name of a file, by its ending. */
export function isFileName(text: string): boolean {
  return FILE.test(text.trim());
}

/** Whether a text goes on with the ending of a file name. */
export function beginsWithEnding(text: string): boolean {
  return ENDING_AT_START.test(text);
}

export function isDesignFile(locator: string): boolean {
  return DESIGN_FILE.test(locator.trim());
}

/** Nothing in it that differs between two ways to write a path, but for capitals. */
const PLAIN = /^(?!file:)[!-.0-[\]-~](?:[ -.0-[\]-~]*[!-.0-[\]-~])?$/i;

/** The same file by its path: slashes, capitals, Unicode form and `./` do not count. */
export function pathKey(locator: string): string {
  if (PLAIN.test(locator)) return locator.toLowerCase();
  return locator
    .trim()
    .normalize('NFC')
    .toLowerCase()
    .replaceAll('\\', '/')
    .replace(/^file:\/*/, '/')
    .split('/')
    .filter((part, at) => part !== '.' && (part !== '' || at === 0))
    .join('/');
}

/** As `pathKey`, for the name without its folder. */
export function nameKey(locator: string): string {
  const key = pathKey(locator);
  return key.slice(key.lastIndexOf('/') + 1);
}
