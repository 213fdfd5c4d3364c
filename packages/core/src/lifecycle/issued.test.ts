import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { FileFormat } from '../model/reading.js';
import { CAN_BE_ISSUED, DEFAULT_ISSUED, ISSUED_OF, issuedFor, type IssuedKind } from './issued.js';

const formats: readonly FileFormat[] = [
  ...(['step', 'dxf', 'pdf', 'workbook', 'text document'] as const),
  ...(['table', 'text', 'image', 'other'] as const),
];

const kinds = (issued: ReturnType<typeof issuedFor>): IssuedKind[] => issued.map(({ kind }) => kind);

describe('what is issued', () => {
  it('is a page of a drawing, whatever can be printed of, and of a document only then', () => {
    expect(kinds(issuedFor({ kind: 'drawing', format: 'dxf' }, DEFAULT_ISSUED))).toEqual(['PDF']);
    expect(kinds(issuedFor({ kind: 'document', format: 'image' }, DEFAULT_ISSUED))).toEqual(['PDF']);
    expect(kinds(issuedFor({ kind: 'document', format: 'workbook' }, DEFAULT_ISSUED))).toEqual([]);
  });

  it('is of an assembly what others build from, and of a part its shape', () => {
    expect(kinds(issuedFor({ kind: 'assembly', format: 'step' }, DEFAULT_ISSUED))).toEqual([
      ...['STEP', 'glTF', 'BOM as XLSX', 'BOM as CSV', 'BOM as XML'],
    ]);
    expect(kinds(issuedFor({ kind: 'part', format: 'step' }, DEFAULT_ISSUED))).toEqual(['STEP', 'glTF']);
  });

  it('is of a bill a workbook for each template and the XML that planning is sent, whatever is set', () => {
    const nothing = { part: [], assembly: [], drawing: [], document: [] };
    expect(issuedFor({ kind: 'bill', format: 'other', outputs: 2 }, nothing)).toEqual([
      { kind: 'bill as XLSX', part: 0 },
      { kind: 'bill as XLSX', part: 1 },
      { kind: 'bill as XML', part: 0 },
    ]);
  });

  it('is never more than is set and can be made, and nothing twice', () => {
    const setting = fc.record(
      Object.fromEntries(
        ISSUED_OF.map((of) => [of, fc.subarray<IssuedKind>([...CAN_BE_ISSUED[of]])]),
      ) as Record<(typeof ISSUED_OF)[number], fc.Arbitrary<IssuedKind[]>>,
    );
    fc.assert(
      fc.property(
        fc.constantFrom(...ISSUED_OF),
        fc.constantFrom(...formats),
        setting,
        (kind, format, set) => {
          const made = kinds(issuedFor({ kind, format }, set));
          expect(new Set(made).size).toBe(made.length);
          for (const each of made) expect(set[kind]).toContain(each);
          // What is left out of the setting takes nothing else with it.
          expect(made).toEqual(
            kinds(issuedFor({ kind, format }, DEFAULT_ISSUED)).filter((each) => set[kind].includes(each)),
          );
        },
      ),
    );
  });
});
