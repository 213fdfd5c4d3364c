import { AS_REQUIRED, decimalOf, ROLES, type Amount, type Basis, type ListLine } from '@stem-trace/core';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { FormatError } from '../errors.js';
import type { ListReading } from './read-list.js';

const MANY: ReadonlySet<string> = new Set(['row', 'designator', 'configuration', 'value', 'alternate']);
const ATTRIBUTE = '@';
const MOST_DEPTH = 60;

type Node = Readonly<Record<string, unknown>>;

/** What `writeBomXml` writes. @throws FormatError */
export function readBomXml(text: string): ListReading {
  const valid = XMLValidator.validate(text);
  if (valid !== true) throw new FormatError(`it is no XML (${valid.err.msg})`, valid.err.line);
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: ATTRIBUTE,
    textNodeName: '#text',
    parseTagValue: false,
    parseAttributeValue: false,
    processEntities: { enabled: true, maxTotalExpansions: 1_000_000, maxExpandedLength: 50_000_000 },
    isArray: (name) => MANY.has(name),
  });
  let document: Node;
  try {
    document = parser.parse(text) as Node;
  } catch (error) {
    throw new FormatError(`it is no XML (${error instanceof Error ? error.message : String(error)})`, 0);
  }
  const item = isNode(document.bom) ? document.bom.item : undefined;
  if (!isNode(item)) throw new FormatError('it is XML, but no BOM: bom and item are missing', 0);
  const root = lineOf(item, 0);
  return { kind: 'lines', number: root.number, version: root.version, lines: root.children };
}

function lineOf(node: Node, level: number): ListLine {
  return {
    number: attribute(node, 'number'),
    name: attribute(node, 'name'),
    version: attribute(node, 'version'),
    amount: amountOf(node.quantity),
    find: attribute(node, 'find'),
    designators: manyOf(node.designator).map(textOf),
    values: Object.fromEntries(
      manyOf(node.value).flatMap((value) =>
        isNode(value) ? [[attribute(value, 'name'), textOf(value)]] : [],
      ),
    ),
    children:
      level >= MOST_DEPTH
        ? []
        : manyOf(node.row).flatMap((row) => (isNode(row) ? [lineOf(row, level + 1)] : [])),
  };
}

function amountOf(node: unknown): Amount {
  const value = decimalOf(textOf(node));
  const said = isNode(node) ? attribute(node, 'basis') : '';
  const role = ROLES.find((each) => isNode(node) && attribute(node, 'role') === each);
  const counts = role === undefined ? {} : { role };
  if (said === 'as-required' || value === undefined) return { ...AS_REQUIRED, ...counts };
  const basis: Basis = said === 'batch' || said === 'fixed' ? said : 'each';
  const optional = (name: 'scrap' | 'step'): Partial<Amount> => {
    const decimal = isNode(node) ? decimalOf(attribute(node, name)) : undefined;
    return decimal === undefined ? {} : { [name]: decimal };
  };
  return {
    value,
    unit: isNode(node) ? attribute(node, 'unit') : '',
    basis,
    ...optional('scrap'),
    ...optional('step'),
    ...counts,
  };
}

function isNode(value: unknown): value is Node {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function manyOf(value: unknown): readonly unknown[] {
  return Array.isArray(value) ? value : [];
}

function attribute(node: Node, name: string): string {
  const value = node[ATTRIBUTE + name];
  return typeof value === 'string' ? value : '';
}

function textOf(value: unknown): string {
  if (typeof value === 'string') return value;
  return isNode(value) && typeof value['#text'] === 'string' ? value['#text'] : '';
}
