import { parseAmount, sayAmount } from '@stem-trace/core';
import { describe, expect, it } from 'vitest';
import { saidBy } from './amount-dialog.js';

describe('a quantity field by field', () => {
  it.each([
    [{ value: '4' }, '4'],
    [{ value: '0.40', unit: 'm', scrap: '5', step: '0.5' }, '0.4 m + 5 % rounded up to 0.5'],
    [{ value: '2', unit: 'ml', basis: 'batch', scrap: '2.5 %' }, '2 ml per batch + 2.5 %'],
    [{ value: '9', basis: 'as required', scrap: '3', role: 'reference' }, 'as required reference'],
    [{ value: '0.1', unit: 'kg', role: 'by-product' }, '0.1 kg by-product'],
    [{ value: '1', scrap: '0', role: 'needed' }, '1'],
  ])('%j is %s', (answers, said) => {
    expect(saidBy(answers)).toBe(said);
    const amount = parseAmount(said);
    expect(amount && sayAmount(amount)).toBe(said);
  });

  it.each<Record<string, string>>([
    { value: '' },
    { value: 'four' },
    { value: '1', scrap: 'much' },
    { value: '1', step: '0' },
  ])('%j is none', (answers) => expect(saidBy(answers)).toBeUndefined());
});
