/**
 * Strings of ISO 10303-21:2016 clause 6.4.3: text between apostrophes, doubled where it is meant, with
 * control directives for characters outside the basic alphabet. Exporters also write raw UTF-8 or Latin-1,
 * so both are understood on the way in; on the way out only the basic alphabet and `\X2\`, `\X4\` are used.
 */

const utf8 = new TextDecoder('utf-8', { fatal: true });
const latin1 = new TextDecoder('latin1');

/**
 * Decodes the bytes between the outer apostrophes.
 * An unknown or unfinished directive stays as it is written: a wrong name that can be read beats none.
 * Line breaks inside a string are not part of it.
 */
export function decodeStepString(bytes: Uint8Array): string {
  const whole = decodeBytes(bytes);
  if (!/[\r\n'\\]/.test(whole)) return whole;
  const raw = whole.replace(/[\r\n]/g, '').replaceAll("''", "'");
  return raw.replace(DIRECTIVE, (all: string, x2?: string, x4?: string, x1?: string, page?: string) => {
    if (x2 !== undefined) return fromHex(x2, 4) ?? all;
    if (x4 !== undefined) return fromHex(x4, 8) ?? all;
    if (x1 !== undefined) return String.fromCharCode(parseInt(x1, 16));
    if (page !== undefined) return String.fromCharCode(page.charCodeAt(0) + 128);
    return all === '\\\\' ? '\\' : '';
  });
}

const DIRECTIVE =
  /\\X2\\([0-9A-Fa-f]*)\\X0\\|\\X4\\([0-9A-Fa-f]*)\\X0\\|\\X\\([0-9A-Fa-f]{2})|\\S\\([ -~])|\\P[A-I]\\|\\\\/g;

/** Nearly all strings are short and plain, and for those a decoder's call costs more than the loop. */
function decodeBytes(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i] as number;
    if (byte > 127) {
      try {
        return utf8.decode(bytes);
      } catch {
        return latin1.decode(bytes);
      }
    }
    text += String.fromCharCode(byte);
  }
  return text;
}

function fromHex(hex: string, width: 4 | 8): string | undefined {
  if (hex.length % width !== 0) return undefined;
  let text = '';
  for (let i = 0; i < hex.length; i += width) {
    const code = parseInt(hex.slice(i, i + width), 16);
    if (code > 0x10ffff) return undefined;
    text += width === 4 ? String.fromCharCode(code) : String.fromCodePoint(code);
  }
  return text;
}

/** Encodes text as a complete string token, apostrophes included; the result is pure ASCII. */
export function encodeStepString(text: string): string {
  let out = "'";
  let wide = '';
  const flush = (): void => {
    if (wide) out += `\\X2\\${wide}\\X0\\`;
    wide = '';
  };
  for (const char of text) {
    const code = char.codePointAt(0) ?? 0;
    if (code > 0xffff) {
      flush();
      out += `\\X4\\${hex(code, 8)}\\X0\\`;
    } else if (code < 0x20 || code > 0x7e) {
      wide += hex(code, 4);
    } else {
      flush();
      out += char === "'" ? "''" : char === '\\' ? '\\\\' : char;
    }
  }
  flush();
  return `${out}'`;
}

function hex(code: number, width: number): string {
  return code.toString(16).toUpperCase().padStart(width, '0');
}
