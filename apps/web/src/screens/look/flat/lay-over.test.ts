import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stepKeys, stepped } from './lay-over.js';

describe('differences of two versions of a drawing', () => {
  it('are gone through forwards and backwards, each once, and from the end to the beginning', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), fc.constantFrom(1 as const, -1 as const), (count, by) => {
        const seen: number[] = [];
        for (let at = stepped(-1, count, by); seen.length < count; at = stepped(at, count, by)) seen.push(at);
        expect([...seen].sort((a, b) => a - b)).toEqual([...Array(count).keys()]);
        expect(stepped(seen.at(-1) ?? -1, count, by)).toBe(seen[0]);
        for (const at of seen) expect(stepped(stepped(at, count, by), count, by === 1 ? -1 : 1)).toBe(at);
      }),
    );
    expect(stepped(-1, 0, 1)).toBe(-1);
  });

  it('have keys while there are any', () => {
    const steps: number[] = [];
    const laid = { step: (_: unknown, __: unknown, by: 1 | -1) => void steps.push(by) };
    const keys = stepKeys(laid, [{ low: [0, 0], high: [1, 1] }], () => undefined);
    keys.n?.();
    keys.N?.();
    expect(steps).toEqual([1, -1]);
    expect(stepKeys(laid, undefined, () => undefined)).toEqual({});
  });
});
