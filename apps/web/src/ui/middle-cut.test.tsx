// @vitest-environment happy-dom
import { cleanup, render, screen } from '@testing-library/react';
import fc from 'fast-check';
import { afterEach, expect, it } from 'vitest';
import { MiddleCut, tailOf } from './middle-cut.js';

afterEach(cleanup);

it.each([
  ['fm-2201-wall.stp', 'wall.stp'],
  ['/Fenmark/River stage station/Logger enclosure', 'enclosure'],
  ['Membrane gland M16 x 1.5', 'M16 x 1.5'],
  ['abcdefghijklmnopqrstuvwxyz', 'qrstuvwxyz'],
])('of %s the end %s is always seen', (text, tail) => {
  expect(text.slice(tailOf(text))).toBe(tail);
});

it('is one text, whatever it is', () => {
  render(<MiddleCut text="Solar panel unit with a long name" />);
  expect(screen.getByTitle('Solar panel unit with a long name').textContent).toBe(
    'Solar panel unit with a long name',
  );
  fc.assert(
    fc.property(fc.string({ minLength: 13, maxLength: 80, unit: 'grapheme' }), (text) => {
      const at = tailOf(text);
      expect(at).toBeGreaterThan(0);
      expect(at).toBeLessThan(text.length);
      // Never in the middle of a letter of two units.
      expect(/[\uDC00-\uDFFF]/.test(text[at] ?? '') && /[\uD800-\uDBFF]/.test(text[at - 1] ?? '')).toBe(
        false,
      );
    }),
  );
});
