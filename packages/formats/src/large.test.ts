/**
 * Files with very many of one thing, in the places where the cost of each could grow with the number before it. With that
 * they would take minutes and more; a test ends after seconds.
 */
import excel from 'exceljs';
import { describe, expect, it } from 'vitest';
import { readFile } from './read-file.js';

const HEAD = `ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('x.stp','',(''),(''),'','','');
FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));
ENDSEC;
DATA;
#1=APPLICATION_CONTEXT('');
#2=PRODUCT_CONTEXT('',#1,'mechanical');
#3=PRODUCT_DEFINITION_CONTEXT('part definition',#1,'design');
#50=(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNIT_ASSIGNED_CONTEXT((#51))REPRESENTATION_CONTEXT('',''));
#51=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.));
`;
const TAIL = 'ENDSEC;\nEND-ISO-10303-21;\n';
const product = (at: number, id: string): string =>
  `#${at}=PRODUCT('${id}','${id}','',(#2));\n#${at + 1}=PRODUCT_DEFINITION_FORMATION('','',#${at});\n` +
  `#${at + 2}=PRODUCT_DEFINITION('design','',#${at + 1},#3);\n#${at + 3}=PRODUCT_DEFINITION_SHAPE('','',#${at + 2});\n` +
  `#${at + 4}=SHAPE_DEFINITION_REPRESENTATION(#${at + 3},#${at + 5});\n`;
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

describe('very many', () => {
  const MANY = 100_000;

  it('mapped items of one part in one assembly', async () => {
    const items = Array.from({ length: MANY }, (_, at) => 1_000_000 + at);
    const text = [
      HEAD,
      product(100, 'TOP'),
      product(200, 'NUT'),
      `#105=SHAPE_REPRESENTATION('',(${items.map((id) => `#${id}`).join(',')}),#50);\n`,
      `#205=SHAPE_REPRESENTATION('',(),#50);\n#40=REPRESENTATION_MAP(#60,#205);\n`,
      `#60=AXIS2_PLACEMENT_3D('',#61,$,$);\n#61=CARTESIAN_POINT('',(0.,0.,0.));\n`,
      ...items.map((id) => `#${id}=MAPPED_ITEM('',#40,#60);\n`),
      ...items.map((id) => `#${id + 5_000_000}=NEXT_ASSEMBLY_USAGE_OCCURRENCE('${id}','','',#102,#202,$);\n`),
      TAIL,
    ].join('');
    const { uses } = await readFile(bytes(text), 'x.stp');
    expect(uses).toHaveLength(MANY);
  }, 30_000);

  it('properties of one part', async () => {
    const text = [
      HEAD,
      product(100, 'TOP'),
      "#105=SHAPE_REPRESENTATION('',(),#50);\n",
      "#106=PROPERTY_DEFINITION('user defined attribute','',#102);\n#107=PROPERTY_DEFINITION_REPRESENTATION(#106,#108);\n",
      `#108=REPRESENTATION('',(${Array.from({ length: MANY }, (_, at) => `#${1_000_000 + at}`).join(',')}),#50);\n`,
      ...Array.from(
        { length: MANY },
        (_, at) => `#${1_000_000 + at}=DESCRIPTIVE_REPRESENTATION_ITEM('p${at}','v');\n`,
      ),
      TAIL,
    ].join('');
    const { products } = await readFile(bytes(text), 'x.stp');
    expect(products[0]?.properties).toHaveLength(MANY);
  }, 30_000);

  it('names of files in a drawing that nothing says how they are needed', async () => {
    const groups = Array.from({ length: MANY }, (_, at) => `0\nPOINT\n1000\nf${at}.dxf\n`).join('');
    const text = `0\nSECTION\n2\nENTITIES\n${groups}0\nENDSEC\n0\nEOF\n`;
    const { unattached } = await readFile(bytes(text), 'x.dxf');
    expect(unattached).toHaveLength(MANY);
  }, 30_000);

  it('codes without an end in the lettering of a drawing', async () => {
    const text = `0\nSECTION\n2\nENTITIES\n0\nMTEXT\n1\n${'\\A'.repeat(4 * MANY)}\n0\nENDSEC\n0\nEOF\n`;
    expect((await readFile(bytes(text), 'x.dxf')).format).toBe('dxf');
  }, 30_000);

  it('cells of a merged range', async () => {
    const workbook = new excel.Workbook();
    const sheet = workbook.addWorksheet('Parts');
    sheet.getCell('A1').value = 'Housing';
    sheet.mergeCells('A1:B2');
    const written = new Uint8Array(await workbook.xlsx.writeBuffer());
    const { unzipSync, zipSync } = await import('fflate');
    const entries = unzipSync(written);
    const name = Object.keys(entries).find((entry) => entry.includes('sheet1.xml')) ?? '';
    const xml = new TextDecoder().decode(entries[name]).replace('A1:B2', 'A1:XFD1048576');
    expect(xml).toContain('A1:XFD1048576');
    const { text } = await readFile(zipSync({ ...entries, [name]: bytes(xml) }), 'x.xlsx');
    expect(text).toBe('Parts\nHousing');
  }, 30_000);
});
