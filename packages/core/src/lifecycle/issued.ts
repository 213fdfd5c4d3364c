/** Issued files: neutral files that are made when something is released, for whoever has no design program. */
import type { FileFormat, ItemKind } from '../model/reading.js';

export type IssuedKind =
  'PDF' | 'STEP' | 'glTF' | 'BOM as XLSX' | 'BOM as CSV' | 'BOM as XML' | 'bill as XLSX' | 'bill as XML';

/** Kinds of item of which somebody can choose what is issued; bills always have what planning is sent. */
export const ISSUED_OF = ['part', 'assembly', 'drawing', 'document'] as const;
export type IssuedOf = (typeof ISSUED_OF)[number];

/** What can be made of each. */
export const CAN_BE_ISSUED = {
  part: ['STEP', 'glTF'],
  assembly: ['STEP', 'glTF', 'BOM as XLSX', 'BOM as CSV', 'BOM as XML'],
  drawing: ['PDF'],
  document: ['PDF'],
} as const satisfies Readonly<Record<IssuedOf, readonly IssuedKind[]>>;

export type IssuedSetting = Readonly<Record<IssuedOf, readonly IssuedKind[]>>;

/** Where nobody said otherwise. */
export const DEFAULT_ISSUED: IssuedSetting = CAN_BE_ISSUED;

/** Formats of which a page can be printed, and versions laid over each other. */
const FLAT: ReadonlySet<FileFormat> = new Set(['dxf', 'pdf', 'image']);

export function isFlat(format: FileFormat): boolean {
  return FLAT.has(format);
}

/**
 * Which files are made when something is released.
 *
 * @param format of its file; a document that no page can be printed of has none made
 * @param outputs of a bill: a workbook for each of its templates
 * @returns in the order in which they are made, with which of several of its kind each is
 */
export function issuedFor(
  { kind, format, outputs = 1 }: { kind: ItemKind; format: FileFormat; outputs?: number },
  setting: IssuedSetting,
): readonly { readonly kind: IssuedKind; readonly part: number }[] {
  if (kind === 'bill')
    return [
      ...Array.from({ length: outputs }, (_, part) => ({ kind: 'bill as XLSX', part }) as const),
      { kind: 'bill as XML', part: 0 },
    ];
  if (kind === 'request' || kind === 'order') return [];
  const can = CAN_BE_ISSUED[kind].filter((each) => isOf(each, format));
  return can.filter((each) => setting[kind].includes(each)).map((each) => ({ kind: each, part: 0 }));
}

function isOf(kind: IssuedKind, format: FileFormat): boolean {
  return kind === 'PDF' ? isFlat(format) : format === 'step';
}
