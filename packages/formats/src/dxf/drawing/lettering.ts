/** Text as it is drawn: codes that format it are read away, lines are broken where the file says how wide they may be. */
import { widthOf } from '@stem-trace/core/sheet';
import { plainText } from '../read.js';

/** Lines of a single-line text; `%%` codes for signs and under- and overlines (DXF reference, TEXT). */
export function singleLine(text: string): string {
  return text
    .replace(/%%[uUoOkK]/g, '')
    .replace(/%%[cC]/g, '⌀')
    .replace(/%%[dD]/g, '°')
    .replace(/%%[pP]/g, '±')
    .replace(/%%(\d{3})/g, (_, code: string) => String.fromCharCode(Number(code)))
    .replace(/%%%/g, '%');
}

/** Lines of a text of several, broken at words where a width is given. */
export function severalLines(text: string, height: number, widest: number): string[] {
  return plainText(text)
    .split('\n')
    .map((line) => line.trimEnd())
    .flatMap((line) => (widest > 0 ? wrapped(line, height, widest) : [line]));
}

function wrapped(line: string, height: number, widest: number): string[] {
  const lines: string[] = [];
  let current = '';
  for (const word of line.split(' ')) {
    const longer = current === '' ? word : `${current} ${word}`;
    if (current !== '' && widthOf(longer, height) > widest) {
      lines.push(current);
      current = word;
    } else current = longer;
  }
  return [...lines, current];
}
