import fc from 'fast-check';
import { expect, it } from 'vitest';
import { plainText } from './plain-text.js';

it('control codes and bidirectional marks are shown, not obeyed', () => {
  expect(plainText('a\u001b[2Jb\u009b31m\u202ec\r')).toBe('a\\u001b[2Jb\\u009b31m\\u202ec\\u000d');
  expect(plainText('FM-1\tRod\nØ 12 × 3, 水')).toBe('FM-1\tRod\nØ 12 × 3, 水');
});

it('nothing that a terminal obeys is left, whatever comes in', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      expect(/[^\P{Cc}\t\n]|[\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/u.test(plainText(text))).toBe(
        false,
      );
    }),
  );
});
