import { describe, expect, it } from 'vitest';
import type { FileReading } from '../model/reading.js';
import { file } from '../testing/builders.js';
import { isWrong, proofRows, type SaidReference } from './proof-document.js';
import { proveVariant, type ExpectedReference, type ProofInput } from './proof.js';

function reading(products: readonly string[], uses: readonly string[] = []): FileReading {
  const { reading: read } = file('x', products, uses);
  if (!read) throw new Error('the builder gives a reading');
  return read;
}

const expected = (
  childNumber: string,
  kind: 'copied' | 'shared',
  childPath = `${childNumber}.stp`,
): ExpectedReference => ({
  path: 'V-TOP.stp',
  parentNumber: 'V-TOP',
  childNumber,
  childPath,
  quantity: 1,
  kind,
});

/** A variant of TOP with a copied part P and a shared bolt, fetched as it should be. */
function sound(): ProofInput {
  return {
    readings: new Map([
      ['V-TOP.stp', reading(['V-TOP', 'V-P -> V-P.stp', 'BOLT -> BOLT.stp'], ['0>1', '0>2'])],
      ['V-P.stp', reading(['V-P'])],
      ['BOLT.stp', reading(['BOLT'])],
    ]),
    expected: [expected('V-P', 'copied'), expected('BOLT', 'shared')],
    copiedPaths: new Set(['V-TOP.stp', 'V-P.stp']),
    originNames: new Set(['TOP', 'P', 'TOP.stp', 'P.stp']),
    knownGaps: new Set(),
  };
}

const withReading = (path: string, read: FileReading): ProofInput => ({
  ...sound(),
  readings: new Map([...sound().readings, [path, read]]),
});

describe('the proof', () => {
  it('counts references that lead where they should', () => {
    expect(proveVariant(sound())).toEqual({
      references: 2,
      copied: 1,
      shared: 1,
      dangling: 0,
      leaking: 0,
      faults: [],
    });
  });

  it('finds a reference that still leads to the origin', () => {
    const input = withReading(
      'V-TOP.stp',
      reading(['V-TOP', 'V-P -> P.stp', 'BOLT -> BOLT.stp'], ['0>1', '0>2']),
    );
    const proof = proveVariant(input);
    expect(proof).toMatchObject({ copied: 0, dangling: 2, leaking: 1 });
    expect(proof.faults).toEqual([
      "V-TOP.stp: 'P.stp' leads to no fetched file",
      'V-TOP.stp: V-TOP should use V-P ×1 from V-P.stp',
      "V-TOP.stp: still names 'P.stp' of the origin",
    ]);
  });

  it('finds an id of the origin inside a copied file, whatever its capitals', () => {
    expect(proveVariant(withReading('V-P.stp', reading(['p'])))).toMatchObject({ leaking: 1 });
  });

  it('does not mind a shared item keeping its own name', () => {
    expect(proveVariant(sound()).leaking).toBe(0);
    // Nor where it was copied too, for another spot; but where nothing is shared there.
    const doubled = { ...sound(), originNames: new Set(['TOP', 'P', 'BOLT']) };
    expect(proveVariant(doubled).leaking).toBe(0);
    const { expected: all } = doubled;
    expect(proveVariant({ ...doubled, expected: all.filter(({ kind }) => kind === 'copied') }).leaking).toBe(
      1,
    );
  });

  it('finds a wrong quantity and a wrong file', () => {
    const twice = withReading(
      'V-TOP.stp',
      reading(['V-TOP', 'V-P -> V-P.stp', 'BOLT -> BOLT.stp'], ['0>1', '0>1', '0>2']),
    );
    expect(proveVariant(twice)).toMatchObject({ copied: 0, shared: 1, dangling: 1 });
    const swapped = withReading(
      'V-TOP.stp',
      reading(['V-TOP', 'V-P -> BOLT.stp', 'BOLT -> V-P.stp'], ['0>1', '0>2']),
    );
    expect(proveVariant(swapped)).toMatchObject({ copied: 0, shared: 0, dangling: 2 });
  });

  it('takes no offence at gaps that the origin has', () => {
    const read = reading(
      ['V-TOP', 'V-P -> V-P.stp', 'BOLT -> BOLT.stp', 'LOST -> lost.stp'],
      ['0>1', '0>2', '0>3'],
    );
    const input = withReading('V-TOP.stp', read);
    expect(proveVariant(input).dangling).toBe(1);
    expect(proveVariant({ ...input, knownGaps: new Set(['V-TOP.stp#lost.stp']) }).dangling).toBe(0);
  });

  it('follows locators into other folders', () => {
    const input: ProofInput = {
      ...sound(),
      readings: new Map([
        ['a/V-TOP.stp', reading(['V-TOP', 'V-P -> ../b/V-P.stp'], ['0>1'])],
        ['b/V-P.stp', reading(['V-P'])],
      ]),
      expected: [{ ...expected('V-P', 'copied', 'b/V-P.stp'), path: 'a/V-TOP.stp' }],
    };
    expect(proveVariant(input)).toMatchObject({ references: 1, copied: 1, dangling: 0 });
  });
});

describe('the proof as a document', () => {
  const said = (each: ExpectedReference, was: string, says: string): SaidReference => ({
    ...each,
    said: was,
    says,
  });

  it('tells of every reference what it said, what it says, where on, and what each witness found; faults first', () => {
    const input = sound();
    const texts = new Map([
      [
        'V-TOP.stp',
        [
          { line: 12, text: 'V-P.stp' },
          { line: 20, text: 'BOLT.stp' },
        ],
      ],
      ['V-P.stp', []],
    ]);
    const references = input.expected.map((each) =>
      said(each, each.childPath.replace('V-', ''), each.childPath),
    );
    const rows = proofRows({ ...input, expected: references }, { texts, faults: [], fixed: ['sheet.pdf'] });
    expect(
      rows.map(({ kind, line, child, said: was, says, leadsTo, reader, census }) => [
        kind,
        line,
        child,
        was,
        says,
        leadsTo,
        reader,
        census,
      ]),
    ).toEqual([
      ['not rewritten', 0, '', '', '', '', 'none', 'none'],
      ['copied', 12, 'V-P', 'P.stp', 'V-P.stp', 'V-P.stp', 'right', 'right'],
      ['shared', 20, 'BOLT', 'BOLT.stp', 'BOLT.stp', 'BOLT.stp', 'right', 'right'],
    ]);
    const broken = withReading('V-TOP.stp', reading(['V-TOP', 'BOLT -> BOLT.stp'], ['0>1']));
    const wrong = proofRows(
      { ...broken, expected: references },
      { texts, faults: ["V-TOP.stp, line 7: 'P' still names P of the origin"], fixed: [] },
    );
    expect(wrong.slice(0, 2).map(({ kind, line, reader }) => [kind, line, reader])).toEqual([
      ['fault', 7, 'none'],
      ['copied', 12, 'wrong'],
    ]);
    expect(wrong.map(isWrong)).toEqual([true, true, false]);
  });
});
