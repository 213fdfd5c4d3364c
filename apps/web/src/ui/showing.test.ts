import { expect, it } from 'vitest';
import { sayMass, saySize, saySolid } from './showing.js';

it('says measures in the unit that somebody chose', () => {
  expect([sayMass(2, 'kg'), sayMass(0.0123456, 'g'), sayMass(0.45359237, 'lb')]).toEqual([
    '2 kg',
    '12.35 g',
    '1 lb',
  ]);
  expect(saySize([160, 100, 1.6], 'mm')).toBe('160 × 100 × 1.6 mm');
  expect(saySize([25.4, 254, 12.7], 'in')).toBe('1 × 10 × 0.5 in');
  expect(saySolid(25_540, 32_810, 'mm')).toBe('25.54 cm³, 328.1 cm²');
  expect(saySolid(25.4 ** 3 * 2, 25.4 ** 2 * 3, 'in')).toBe('2 in³, 3 in²');
});
