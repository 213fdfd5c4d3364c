import type { FileAnswer } from '@stem-trace/contract';
import { isWrong, type ProofDocument, type ProofRow } from '@stem-trace/core';
import { writePdf, type OutTable } from '@stem-trace/formats';

export type ProofFormat = 'json' | 'pdf';

/** A proof as a file. */
export async function proofFile(document: ProofDocument, format: ProofFormat): Promise<FileAnswer> {
  const bytes =
    format === 'json'
      ? new TextEncoder().encode(`${JSON.stringify(document, null, 2)}\n`)
      : await writePdf(tableOf(document), document.at.slice(0, 10));
  return {
    name: `Proof of ${document.variant.replace(/[/:\\]/g, '-')}.${format}`,
    media: format === 'json' ? 'application/json' : 'application/pdf',
    base64: Buffer.from(bytes).toString('base64'),
  };
}

function tableOf(document: ProofDocument): OutTable {
  const { variant, origin, at, by, references, copied, shared, dangling, leaking, rows } = document;
  return {
    title: `Proof of ${variant}`,
    says: [
      `Derived from ${origin}; its files were made and read back on ${at.slice(0, 10)} for ${by}.`,
      `${references} references: ${copied} to copies, ${shared} shared, ${dangling} dangling, ${leaking} leaking.`,
    ],
    columns: [
      { title: 'File', width: 30 },
      { title: 'Line', width: 6, align: 'right' },
      { title: 'Uses or field', width: 20 },
      { title: '×', width: 4, align: 'right' },
      { title: 'Said', width: 22 },
      { title: 'Says', width: 22 },
      { title: 'Leads to', width: 26 },
      { title: 'Reader', width: 7 },
      { title: 'Texts', width: 7 },
      { title: 'Note', width: 30 },
    ],
    rows: rows.map((row) => ({
      level: 1,
      cells: cellsOf(row),
      ...(isWrong(row) ? { mark: 'removed' as const } : {}),
    })),
  };
}

function cellsOf(row: ProofRow): (string | number | null)[] {
  const { path, line, child, quantity, said, says, leadsTo, reader, census, note } = row;
  return [
    ...[path, line === 0 ? null : line, child, quantity === 0 ? null : quantity],
    ...[said, says, leadsTo, reader === 'none' ? '' : reader, census === 'none' ? '' : census, note],
  ];
}
