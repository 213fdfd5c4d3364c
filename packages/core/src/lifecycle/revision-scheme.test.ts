import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { revisionCode, revisionPosition, REVISION_SCHEMES, VERSION_ENDING } from './revision-scheme.js';

describe('revision schemes', () => {
  it.each([
    ['letters', ['A', 'B', 'Z', 'AA', 'AB'], [1, 2, 26, 27, 28]],
    ['drawing letters', ['A', 'H', 'J', 'Y', 'AA'], [1, 8, 9, 20, 21]],
    ['numbers', ['1', '10'], [1, 10]],
    ['two digits', ['01', '10', '100'], [1, 10, 100]],
  ] as const)('%s go on as %j', (scheme, codes, positions) => {
    expect(positions.map((position) => revisionCode(position, scheme))).toEqual(codes);
  });

  it('know where each of their codes stands, and no other', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...REVISION_SCHEMES),
        fc.integer({ min: 1, max: 9999 }),
        (scheme, position) => {
          const code = revisionCode(position, scheme);
          expect(revisionPosition(code, scheme)).toBe(position);
          expect(VERSION_ENDING.exec(`N@${code}/1`)?.[1]).toBe(`${code}/1`);
        },
      ),
    );
    for (const none of ['', 'a', 'A1', '0', '00', '1.5', '-1', 'ABCDEFG', ' A'])
      for (const scheme of REVISION_SCHEMES) expect(revisionPosition(none, scheme)).toBeUndefined();
    expect(revisionPosition('I', 'drawing letters')).toBeUndefined();
    expect(revisionPosition('1', 'two digits')).toBeUndefined();
  });
});
