import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeStepString, encodeStepString } from './strings.js';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

describe('strings of ISO 10303-21', () => {
  it.each([
    ["it''s", "it's"],
    ['\\X2\\30D630EC30F330C9\\X0\\ R1', 'ブレンド R1'],
    ['\\X4\\0001F600\\X0\\', '😀'],
    ['\\X\\E9', 'é'],
    ['\\S\\i', 'é'],
    ['C:\\\\parts\\\\nut.stp', 'C:\\parts\\nut.stp'],
    ['C:\\parts\\nut.stp', 'C:\\parts\\nut.stp'],
    ['\\X2\\30D\\X0\\', '\\X2\\30D\\X0\\'],
    ['split\r\n over lines', 'split over lines'],
  ])('decodes %j', (written, meant) => {
    expect(decodeStepString(bytes(written))).toBe(meant);
  });

  it('understands raw UTF-8 and raw Latin-1', () => {
    expect(decodeStepString(bytes('Träger'))).toBe('Träger');
    expect(decodeStepString(Uint8Array.from([0x54, 0x72, 0xe4]))).toBe('Trä');
  });

  it('reads back what it writes, in pure ASCII', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (text) => {
        const clean = text.replace(/[\r\n]/g, '');
        const token = encodeStepString(clean);
        expect(token).toMatch(/^'[ -~]*'$/);
        expect(decodeStepString(bytes(token.slice(1, -1)))).toBe(clean);
      }),
    );
  });
});
