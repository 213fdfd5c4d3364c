import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { areCompatible, parseQuantity, toSi } from './quantity.js';

describe('quantities', () => {
  it.each([
    [12.5, 'mm', 0.0125, 'm'],
    [1, 'cm²', 1e-4, 'm2'],
    [2, 'mm³', 2e-9, 'm3'],
    [1, 'in', 0.0254, 'm'],
    [250, 'g', 0.25, 'kg'],
    [20, '°C', 293.15, 'tempK'],
    [4.7, 'kΩ', 4700, toSi(1, 'ohm')?.unit ?? ''],
    [3, '', 3, ''],
  ])('%s %s is %s %s', (value, unit, si, base) => {
    expect(toSi(value, unit)?.value).toBeCloseTo(si, 12);
    expect(toSi(value, unit)?.unit).toBe(base);
  });

  it('know what can be compared, and what nobody knows', () => {
    expect(areCompatible('mm', 'in')).toBe(true);
    expect(areCompatible('Nm', 'N·m')).toBe(true);
    expect(areCompatible('mm', 'kg')).toBe(false);
    expect(areCompatible('bananas', 'bananas')).toBe(false);
    expect(toSi(1, 'bananas')).toBeUndefined();
  });

  it.each([
    ['12.5 mm', 12.5, 'mm'],
    ['12,5mm', 12.5, 'mm'],
    ['-3e-2 N*m', -0.03, 'N*m'],
    ['1 200 kg', 1200, 'kg'],
    ['8', 8, ''],
    ['45°', 45, '°'],
  ])('are read from %j', (text, value, unit) => {
    expect(parseQuantity(text)).toEqual({ value, unit });
  });

  it.each(['', 'mm', 'about 3', '1.2.3', '--1', '1\n2'])('are not read from %j', (text) => {
    expect(parseQuantity(text)).toBeUndefined();
  });

  it('keep their order whatever unit they are written in', () => {
    const number = fc.double({ min: -1e6, max: 1e6, noNaN: true });
    fc.assert(
      fc.property(number, number, fc.constantFrom('mm', 'm', 'in', 'um'), (a, b, unit) => {
        fc.pre(Math.abs(a - b) > 1e-6);
        expect(Math.sign((toSi(a, unit)?.value ?? NaN) - (toSi(b, unit)?.value ?? NaN))).toBe(
          Math.sign(a - b),
        );
      }),
    );
  });

  it('never throw, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 30 }), fc.double(), (text, value) => {
        parseQuantity(text);
        toSi(value, text);
      }),
      { numRuns: 500 },
    );
  });
});
