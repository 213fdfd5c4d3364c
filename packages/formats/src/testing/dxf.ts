/** Small ASCII DXF files for tests. */

export interface DrawingText {
  /** Title block fields by tag. */
  readonly fields?: Readonly<Record<string, string>>;
  /** Paths of files attached, by block name. */
  readonly attached?: Readonly<Record<string, string>>;
  readonly notes?: readonly string[];
  /** A list of parts, the heading first, each row 8 mm above the one before. */
  readonly list?: readonly (readonly string[])[];
  readonly lineEnd?: string;
}

const COLUMN_MM = 40;
const ROW_MM = 8;

export function dxfText({
  fields = {},
  attached = {},
  notes = [],
  list = [],
  lineEnd = '\r\n',
}: DrawingText): string {
  const groups: (string | number)[] = [0, 'SECTION', 2, 'BLOCKS'];
  for (const [name, path] of Object.entries(attached))
    groups.push(0, 'BLOCK', 2, name, 70, 4, 1, path, 0, 'ENDBLK');
  groups.push(0, 'ENDSEC', 0, 'SECTION', 2, 'ENTITIES');
  groups.push(0, 'LINE', 10, '0.0', 20, '0.0', 11, '210.0', 21, '297.0');
  for (const note of notes) groups.push(0, 'TEXT', 10, '5.0', 20, '5.0', 40, '3.5', 1, note);
  for (const [at, cells] of list.entries())
    for (const [column, cell] of cells.entries())
      groups.push(0, 'TEXT', 10, 200 + column * COLUMN_MM, 20, 50 + at * ROW_MM, 40, 2.5, 1, cell);
  groups.push(0, 'INSERT', 2, 'TITLE', 66, 1, 10, '0.0', 20, '0.0');
  for (const [tag, text] of Object.entries(fields))
    groups.push(0, 'ATTRIB', 10, '1.0', 20, '1.0', 40, '3.5', 1, text, 2, tag);
  groups.push(0, 'SEQEND', 0, 'ENDSEC', 0, 'EOF');
  return groups.join(lineEnd) + lineEnd;
}

export function dxf(drawing: DrawingText): Uint8Array {
  return new TextEncoder().encode(dxfText(drawing));
}
