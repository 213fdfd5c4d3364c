/** BOMs as XML for planning systems; `bom.xsd` beside it says what may stand where. */
import type { Amount, Basis } from '@stem-trace/core';
import { XMLBuilder } from 'fast-xml-parser';
import { xmlText as text } from './xml-text.js';
import type { OutBom, OutLine } from './model.js';

const BOM_NAMESPACE = 'urn:stem-trace:bom:1';

const ATTRIBUTE = '@';

/** `O(lines)` */
export function writeBomXml(bom: OutBom): string {
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: ATTRIBUTE,
    textNodeName: '#text',
    format: true,
    suppressEmptyNode: true,
    suppressBooleanAttributes: false,
  });
  const body = builder.build({
    bom: {
      [`${ATTRIBUTE}xmlns`]: BOM_NAMESPACE,
      [`${ATTRIBUTE}written`]: bom.writtenAt,
      [`${ATTRIBUTE}lens`]: text(bom.lens),
      item: nodeOf(bom),
    },
  });
  return `<?xml version="1.0" encoding="UTF-8"?>\n${body}`;
}

type Node = Record<string, unknown>;

/** Members in the order that the schema wants. */
function nodeOf(line: OutLine): Node {
  const attribute = (name: string, value: string): Node =>
    value === '' ? {} : { [ATTRIBUTE + name]: text(value) };
  return {
    [`${ATTRIBUTE}number`]: text(line.number),
    ...attribute('name', line.name),
    ...attribute('version', line.version),
    ...attribute('find', line.find),
    quantity: quantityOf(line.amount),
    designator: line.designators.map(text),
    configuration: line.configurations.map(text),
    value: Object.entries(line.values).map(([name, value]) => ({
      [`${ATTRIBUTE}name`]: text(name),
      '#text': text(value),
    })),
    alternate: line.alternates.map(({ number, name, rank }) => ({
      [`${ATTRIBUTE}number`]: text(number),
      ...attribute('name', name),
      [`${ATTRIBUTE}rank`]: rank,
    })),
    row: line.children.map(nodeOf),
  };
}

const BASIS: Readonly<Record<Basis, string>> = {
  each: 'each',
  batch: 'batch',
  fixed: 'fixed',
  'as required': 'as-required',
};

function quantityOf({ value, unit, basis, scrap, step, role }: Amount): Node {
  return {
    ...(unit === '' ? {} : { [`${ATTRIBUTE}unit`]: text(unit) }),
    ...(basis === 'each' ? {} : { [`${ATTRIBUTE}basis`]: BASIS[basis] }),
    ...(scrap === undefined ? {} : { [`${ATTRIBUTE}scrap`]: scrap }),
    ...(step === undefined ? {} : { [`${ATTRIBUTE}step`]: step }),
    ...(role === undefined ? {} : { [`${ATTRIBUTE}role`]: role }),
    ...(value === '' ? {} : { '#text': value }),
  };
}

/** XML Schema 1.0 of what `writeBomXml` writes. */
export const BOM_XSD = `<?xml version="1.0" encoding="UTF-8"?>
<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns="${BOM_NAMESPACE}"
           targetNamespace="${BOM_NAMESPACE}" elementFormDefault="qualified">
  <xs:annotation>
    <xs:documentation>A bill of materials: an item and the rows of what it is made of, level within level.</xs:documentation>
  </xs:annotation>
  <xs:element name="bom">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="item" type="line"/>
      </xs:sequence>
      <xs:attribute name="written" type="xs:dateTime" use="required"/>
      <xs:attribute name="lens" type="xs:string" use="required"/>
    </xs:complexType>
  </xs:element>
  <xs:complexType name="line">
    <xs:sequence>
      <xs:element name="quantity" type="quantity"/>
      <xs:element name="designator" type="xs:string" minOccurs="0" maxOccurs="unbounded"/>
      <xs:element name="configuration" type="xs:string" minOccurs="0" maxOccurs="unbounded"/>
      <xs:element name="value" minOccurs="0" maxOccurs="unbounded">
        <xs:complexType>
          <xs:simpleContent>
            <xs:extension base="xs:string">
              <xs:attribute name="name" type="xs:string" use="required"/>
            </xs:extension>
          </xs:simpleContent>
        </xs:complexType>
      </xs:element>
      <xs:element name="alternate" minOccurs="0" maxOccurs="unbounded">
        <xs:complexType>
          <xs:attribute name="number" type="xs:string" use="required"/>
          <xs:attribute name="name" type="xs:string"/>
          <xs:attribute name="rank" type="xs:positiveInteger" use="required"/>
        </xs:complexType>
      </xs:element>
      <xs:element name="row" type="line" minOccurs="0" maxOccurs="unbounded"/>
    </xs:sequence>
    <xs:attribute name="number" type="xs:string" use="required"/>
    <xs:attribute name="name" type="xs:string"/>
    <xs:attribute name="version" type="xs:string"/>
    <xs:attribute name="find" type="xs:string"/>
  </xs:complexType>
  <xs:complexType name="quantity">
    <xs:simpleContent>
      <xs:extension base="amount">
        <xs:attribute name="unit" type="xs:string"/>
        <xs:attribute name="basis" default="each">
          <xs:simpleType>
            <xs:restriction base="xs:string">
              <xs:enumeration value="each"/>
              <xs:enumeration value="batch"/>
              <xs:enumeration value="fixed"/>
              <xs:enumeration value="as-required"/>
            </xs:restriction>
          </xs:simpleType>
        </xs:attribute>
        <xs:attribute name="scrap" type="xs:decimal"/>
        <xs:attribute name="step" type="xs:decimal"/>
        <xs:attribute name="role">
          <xs:annotation>
            <xs:documentation>Needed where absent. A by-product comes out of making it; a reference adds to nothing.</xs:documentation>
          </xs:annotation>
          <xs:simpleType>
            <xs:restriction base="xs:string">
              <xs:enumeration value="by-product"/>
              <xs:enumeration value="reference"/>
            </xs:restriction>
          </xs:simpleType>
        </xs:attribute>
      </xs:extension>
    </xs:simpleContent>
  </xs:complexType>
  <xs:simpleType name="amount">
    <xs:union memberTypes="xs:decimal">
      <xs:simpleType>
        <xs:restriction base="xs:string">
          <xs:length value="0"/>
        </xs:restriction>
      </xs:simpleType>
    </xs:union>
  </xs:simpleType>
</xs:schema>
`;
