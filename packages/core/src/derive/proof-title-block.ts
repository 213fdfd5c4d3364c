/** What the title blocks of copied drawings say of themselves, held against the store by both witnesses. */
import { addTo } from '../collections.js';
import { propertyOfField, type TitleBlockRule } from '../intake/title-block.js';
import type { FileReading } from '../model/reading.js';
import { sayValue } from '../properties/say-value.js';
import { BARE_ROW, type ProofRow } from './proof-document.js';

/** A property of a copied drawing that its origin does not have, or has otherwise. */
export interface ExpectedField {
  readonly path: string;
  readonly number: string;
  readonly property: string;
  /** What the origin says; empty where it says nothing. */
  readonly said: string;
  readonly says: string;
}

/**
 * Looks for each of them in the files as they are fetched. What the drawing has no field for is work that is left.
 * `O(expected + fields + texts)`
 *
 * @param texts every text of the files with its line, by path
 */
export function proveTitleBlocks(
  expected: readonly ExpectedField[],
  {
    readings,
    texts,
    rules,
  }: {
    readonly readings: ReadonlyMap<string, FileReading>;
    readonly texts: ReadonlyMap<string, readonly { readonly line: number; readonly text: string }[]>;
    readonly rules: readonly TitleBlockRule[];
  },
): { readonly rows: readonly ProofRow[]; readonly faults: readonly string[] } {
  const byPath = new Map<string, ExpectedField[]>();
  for (const each of expected) addTo(byPath, each.path, each);
  const rows = [...byPath].flatMap(([path, own]) => {
    const reading = readings.get(path);
    if (!reading) return [];
    const fields = new Set(
      (reading.titleBlock ?? []).flatMap(({ tag }) => propertyOfField(tag, rules)?.toLowerCase() ?? []),
    );
    const lines = new Map<string, number>();
    for (const { text, line } of texts.get(path) ?? [])
      if (!lines.has(text.trim())) lines.set(text.trim(), line);
    return own.map((each) =>
      rowOf(each, { reading, lines, hasField: fields.has(each.property.toLowerCase()) }),
    );
  });
  return {
    rows,
    faults: rows.flatMap(({ kind, note }) => (kind === 'title block' && note !== '' ? [note] : [])),
  };
}

function rowOf(
  { path, number, property, said, says }: ExpectedField,
  {
    reading,
    lines,
    hasField,
  }: {
    readonly reading: FileReading;
    readonly lines: ReadonlyMap<string, number>;
    readonly hasField: boolean;
  },
): ProofRow {
  const row = { ...BARE_ROW, path, parent: number, child: property, said, says };
  if (!hasField)
    return {
      ...row,
      kind: 'not rewritten',
      note: `the title block has no field for ${property}, so that only the store says “${says}”`,
    };
  const read = (reading.products[reading.root]?.properties ?? []).flatMap((value) =>
    value.name.toLowerCase() === property.toLowerCase() ? sayValue(value) : [],
  );
  const isRead = says === '' ? read.length === 0 : read.includes(says);
  // A bare number stands among thousands of coordinates; the second witness does not look for it.
  const isSilent = says === '' || /^[-+]?[0-9]*\.?[0-9]*$/.test(says);
  const line = isSilent ? 0 : (lines.get(says) ?? 0);
  return {
    ...row,
    kind: 'title block',
    line,
    reader: isRead ? 'right' : 'wrong',
    census: isSilent ? 'none' : line === 0 ? 'wrong' : 'right',
    note:
      isRead && (isSilent || line > 0)
        ? ''
        : `${path}: the title block says '${read.join("', '")}' for ${property}, not '${says}'`,
  };
}
