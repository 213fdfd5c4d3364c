import { writeFile } from 'node:fs/promises';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { BILL_VERBS } from './build.js';
import { table, type Answer, type Verb } from './verb.js';

const FORMATS = ['csv', 'xlsx', 'pdf', 'xml', 'cyclonedx'] as const;

export const bill: Verb = {
  usage:
    'bill NUMBER[@VERSION] [--flat] [--lens L] [--columns "find;amount;property:material"] [--out FILE]\n       stem bill new|show|set|carry|check|release|releases …',
  about: 'The BOM of an item, on the screen or as CSV, XLSX, PDF, XML or CycloneDX (JSON)',
  async run(args, terminal): Promise<Answer> {
    const verb = BILL_VERBS.get(args[0] ?? '');
    if (verb) return verb.run(args.slice(1), terminal);
    const { connect, fromHere } = terminal;
    const parsed = parseVerb(
      args,
      {
        flat: { type: 'boolean' },
        lens: { type: 'string' },
        columns: { type: 'string' },
        out: { type: 'string' },
      },
      { min: 1, max: 1 },
      bill.usage,
    );
    const client = await connect();
    const [item = ''] = parsed.positionals;
    const query = { item, flat: parsed.flag('flat') || undefined, lens: parsed.text('lens') };
    const out = parsed.text('out');
    if (out !== undefined) {
      const format = formatOf(out);
      const bytes = await client.download('/api/bill/file', {
        ...query,
        format,
        columns: parsed.text('columns'),
      });
      await writeFile(fromHere(out), bytes);
      return { json: { out, bytes: bytes.length }, lines: [`Written: ${out}, ${bytes.length} bytes.`] };
    }
    const columns = (parsed.text('columns') ?? '')
      .split(';')
      .flatMap((key) => (key.startsWith('property:') ? [key.slice('property:'.length)] : []));
    const answer = await client.get('/api/bill', { ...query, columns: columns.join(';') });
    return {
      json: answer,
      lines: [
        `BOM of ${answer.item.number} ${answer.item.version}, ${answer.isFlat ? 'parts only' : 'level by level'}:`,
        ...table(
          answer.rows.map((row) => [
            row.find,
            `${'  '.repeat(row.level - 1)}${row.number}`,
            row.name,
            row.isGap ? 'gap' : row.version,
            row.amount.said,
            row.total.map(({ said }) => said).join(' and '),
            row.designators,
            ...columns.map((name) => row.values[name] ?? ''),
          ]),
        ),
        ...answer.faults.map(({ number, says }) => `${number}: ${says}`),
      ],
    };
  },
};

function formatOf(file: string): (typeof FORMATS)[number] {
  const ending = file.slice(file.lastIndexOf('.') + 1).toLowerCase();
  const format = FORMATS.find((each) => each === (ending === 'json' ? 'cyclonedx' : ending));
  if (!format)
    throw new CliError(`${file}: a BOM is written as .csv, .xlsx, .pdf, .xml or .json (CycloneDX).`);
  return format;
}
