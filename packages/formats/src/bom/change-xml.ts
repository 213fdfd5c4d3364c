/** Change orders as XML for other programs; `change.xsd` beside it says what may stand where. */
import { XMLBuilder } from 'fast-xml-parser';
import { xmlText as text } from './xml-text.js';

const CHANGE_NAMESPACE = 'urn:stem-trace:change-notice:1';

export interface OutDifference {
  readonly what: string;
  readonly before: string;
  readonly after: string;
}

export interface OutMade {
  readonly number: string;
  readonly name: string;
  /** Null where it is new. */
  readonly from: string | null;
  readonly to: string;
  readonly says: string;
  readonly whole: readonly OutDifference[];
  readonly rows: readonly {
    readonly sign: string;
    readonly number: string;
    readonly name: string;
    readonly before: string;
    readonly after: string;
  }[];
}

export interface OutChange {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly state: string;
  readonly why: string;
  readonly until: string;
  readonly takesEffect: string;
  readonly items: readonly {
    readonly relation: string;
    readonly number: string;
    readonly name: string;
    readonly note: string;
  }[];
  readonly makes: readonly OutMade[];
}

/** `O(rows)` */
export function writeChangeXml(change: OutChange): string {
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    textNodeName: '#text',
    format: true,
    suppressEmptyNode: true,
    suppressBooleanAttributes: false,
  });
  const { number, name, version, state, why, until, takesEffect, items, makes } = change;
  const body = builder.build({
    change: {
      '@xmlns': CHANGE_NAMESPACE,
      ...attributes({ number, name, version, state, until, takesEffect }),
      why: text(why),
      item: items.map(({ note, ...item }) => ({
        ...attributes(item),
        ...(note === '' ? {} : { '#text': text(note) }),
      })),
      makes: makes.map(({ whole, rows, says, from, ...made }) => ({
        ...attributes({ ...made, from: from ?? '' }),
        says: text(says),
        property: whole.map((each) =>
          attributes({ name: each.what, before: each.before, after: each.after }),
        ),
        row: rows.map((row) => attributes(row)),
      })),
    },
  });
  return `<?xml version="1.0" encoding="UTF-8"?>\n${body}`;
}

/** Those that say something. */
function attributes(values: Readonly<Record<string, string>>): Record<string, string> {
  return Object.fromEntries(
    Object.entries(values).flatMap(([name, value]) => (value === '' ? [] : [[`@${name}`, text(value)]])),
  );
}

/** What `writeChangeXml` writes (W3C XML Schema 1.0). */
export const CHANGE_XSD = `<?xml version="1.0" encoding="UTF-8"?>
<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns="${CHANGE_NAMESPACE}" targetNamespace="${CHANGE_NAMESPACE}" elementFormDefault="qualified">
  <xs:element name="change">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="why" type="xs:string"/>
        <xs:element name="item" type="named" minOccurs="0" maxOccurs="unbounded"/>
        <xs:element name="makes" type="made" minOccurs="0" maxOccurs="unbounded"/>
      </xs:sequence>
      <xs:attribute name="number" type="xs:string" use="required"/>
      <xs:attribute name="name" type="xs:string"/>
      <xs:attribute name="version" type="xs:string" use="required"/>
      <xs:attribute name="state" type="xs:string" use="required"/>
      <xs:attribute name="until" type="xs:date"/>
      <xs:attribute name="takesEffect" type="xs:string" use="required"/>
    </xs:complexType>
  </xs:element>
  <xs:complexType name="named">
    <xs:simpleContent>
      <xs:extension base="xs:string">
        <xs:attribute name="relation" type="xs:string" use="required"/>
        <xs:attribute name="number" type="xs:string" use="required"/>
        <xs:attribute name="name" type="xs:string"/>
      </xs:extension>
    </xs:simpleContent>
  </xs:complexType>
  <xs:complexType name="made">
    <xs:sequence>
      <xs:element name="says" type="xs:string"/>
      <xs:element name="property" type="difference" minOccurs="0" maxOccurs="unbounded"/>
      <xs:element name="row" type="row" minOccurs="0" maxOccurs="unbounded"/>
    </xs:sequence>
    <xs:attribute name="number" type="xs:string" use="required"/>
    <xs:attribute name="name" type="xs:string"/>
    <xs:attribute name="from" type="xs:string"/>
    <xs:attribute name="to" type="xs:string" use="required"/>
  </xs:complexType>
  <xs:complexType name="difference">
    <xs:attribute name="name" type="xs:string" use="required"/>
    <xs:attribute name="before" type="xs:string"/>
    <xs:attribute name="after" type="xs:string"/>
  </xs:complexType>
  <xs:complexType name="row">
    <xs:attribute name="sign" type="xs:string" use="required"/>
    <xs:attribute name="number" type="xs:string"/>
    <xs:attribute name="name" type="xs:string"/>
    <xs:attribute name="before" type="xs:string"/>
    <xs:attribute name="after" type="xs:string"/>
  </xs:complexType>
</xs:schema>
`;
