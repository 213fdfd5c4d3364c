/**
 * BOMs in CycloneDX 1.6 (ECMA-424, 1st edition), as JSON: components nested as they are built. The standard has no quantities,
 * find numbers and designators of its own; they stand in its properties, under names of ours.
 */
import { sayAmount } from '@stem-trace/core';
import type { OutBom, OutLine } from './model.js';

const OURS = 'stem-trace:';

interface Property {
  readonly name: string;
  readonly value: string;
}

interface Component {
  readonly type: 'device';
  readonly 'bom-ref': string;
  readonly name: string;
  readonly version?: string;
  readonly description?: string;
  readonly properties: readonly Property[];
  readonly components?: readonly Component[];
}

/**
 * @param serial a UUID that is this document's own (RFC 4122)
 * @returns JSON text; `O(lines)`
 */
export function writeCycloneDx(bom: OutBom, serial: string): string {
  const root = componentOf(bom, '');
  const { components = [], ...itself } = root;
  return JSON.stringify(
    {
      $schema: 'http://cyclonedx.org/schema/bom-1.6.schema.json',
      bomFormat: 'CycloneDX',
      specVersion: '1.6',
      serialNumber: `urn:uuid:${serial}`,
      version: 1,
      metadata: {
        timestamp: bom.writtenAt,
        component: itself,
        properties: [{ name: `${OURS}lens`, value: bom.lens }],
      },
      components,
      dependencies: dependenciesOf(root),
    },
    null,
    1,
  );
}

function componentOf(line: OutLine, way: string): Component {
  const met = new Map<string, number>();
  const components = line.children.map((child) => {
    const times = (met.get(child.number) ?? 0) + 1;
    met.set(child.number, times);
    const step = times === 1 ? child.number : `${child.number}#${times}`;
    return componentOf(child, way === '' ? step : `${way} › ${step}`);
  });
  return {
    type: 'device',
    'bom-ref': way === '' ? `the BOM of ${line.number}` : way,
    // A component has a name in any case; what an engineer calls it is its number.
    name: line.number === '' ? 'unnamed' : line.number,
    ...(line.version === '' ? {} : { version: line.version }),
    ...(line.name === '' ? {} : { description: line.name }),
    properties: propertiesOf(line),
    ...(components.length > 0 ? { components } : {}),
  };
}

function propertiesOf(line: OutLine): Property[] {
  const property = (name: string, value: string): Property[] =>
    value === '' ? [] : [{ name: OURS + name, value }];
  return [
    ...property('quantity', sayAmount(line.amount)),
    ...property('find', line.find),
    ...line.designators.flatMap((designator) => property('designator', designator)),
    ...line.configurations.flatMap((configuration) => property('configuration', configuration)),
    ...line.alternates.flatMap(({ number }) => property('alternate', number)),
    ...Object.entries(line.values).flatMap(([name, value]) => property(`value:${name}`, value)),
  ];
}

interface Dependency {
  readonly ref: string;
  readonly dependsOn?: readonly string[];
}

function dependenciesOf(root: Component): Dependency[] {
  const dependencies: Dependency[] = [];
  const stack: Component[] = [root];
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { components = [] } = top;
    dependencies.push({
      ref: top['bom-ref'],
      ...(components.length > 0 ? { dependsOn: components.map((each) => each['bom-ref']) } : {}),
    });
    stack.push(...components);
  }
  return dependencies;
}
