/** What the fields of a drawing's title block mean. Companies name them as they like, so a store keeps its own table. */
import type {
  FileReading,
  ProductReading,
  PropertyValue,
  TitleBlockField,
  UseReading,
} from '../model/reading.js';
import { addTo } from '../collections.js';
import { IDENTITY_PLACEMENT } from '../model/link.js';
import { isSameValue, parseProperty } from '../properties/properties.js';
import { sayValue } from '../properties/say-value.js';
import { dayWrittenLike } from './day-written-like.js';

/**
 * `depicts`: number of the model that the drawing shows. `nothing`: the field is passed over. `drawn by`, `drawn on` and
 * `checked` are properties that a copy does not take over from its origin: it is drawn anew, and nobody has checked it.
 */
export const FIELD_MEANINGS = [
  'number',
  'name',
  'description',
  'depicts',
  'drawn by',
  'drawn on',
  'checked',
  'property',
  'nothing',
] as const;
export type FieldMeaning = (typeof FIELD_MEANINGS)[number];

const ARE_PROPERTIES: ReadonlySet<FieldMeaning> = new Set(['drawn by', 'drawn on', 'checked', 'property']);

export interface TitleBlockRule {
  /** Tag of the field; case does not count. */
  readonly tag: string;
  readonly means: FieldMeaning;
  /** Name of the property, for a meaning that is one; made from the tag where absent. */
  readonly property?: string;
}

/** Names of fields that many companies use; a start for a store's own table. */
export const DEFAULT_TITLE_BLOCK: readonly TitleBlockRule[] = [
  ...['DRAWING_NUMBER', 'DRAWING_NO', 'DWG_NO', 'DRAWING'].map((tag) => ({ tag, means: 'number' }) as const),
  ...['TITLE', 'TITLE1', 'NAME'].map((tag) => ({ tag, means: 'name' }) as const),
  ...['PART_NUMBER', 'PART_NO', 'MODEL', 'ITEM'].map((tag) => ({ tag, means: 'depicts' }) as const),
  { tag: 'SUBTITLE', means: 'description' },
  ...['DRAWN_BY', 'DRAWN', 'DESIGNED_BY', 'AUTHOR'].map((tag) => ({ tag, means: 'drawn by' }) as const),
  ...['DATE', 'DRAWN_DATE', 'DATE_DRAWN'].map((tag) => ({ tag, means: 'drawn on' }) as const),
  ...['CHECKED_BY', 'CHECKED', 'CHECKED_DATE', 'APPROVED_BY', 'APPROVED', 'APPROVED_DATE'].map(
    (tag) => ({ tag, means: 'checked' }) as const,
  ),
];

/** Fills in a drawing's reading from its title block; other readings come back as they are. `O(fields)`. */
export function applyTitleBlock(reading: FileReading, rules: readonly TitleBlockRule[]): FileReading {
  const { titleBlock = [] } = reading;
  const root = reading.products[reading.root];
  if (titleBlock.length === 0 || !root) return reading;
  const byTag = rulesByTag(rules);
  const said = (meaning: FieldMeaning): TitleBlockField[] =>
    titleBlock.filter((field) => meaningOf(field, byTag) === meaning && field.text.trim() !== '');
  const depicted = said('depicts');
  const filled: ProductReading = {
    ...root,
    id: said('number')[0]?.text.trim() ?? root.id,
    name: said('name')[0]?.text.trim() ?? root.name,
    description: said('description')[0]?.text.trim() ?? root.description,
    properties: [
      ...root.properties,
      ...titleBlock.flatMap((field): PropertyValue[] => {
        const name = propertyOf(field.tag, byTag);
        const text = field.text.trim();
        return name === undefined || text === '' ? [] : [{ name, kind: 'text', text }];
      }),
    ],
  };
  return {
    ...reading,
    products: [
      ...reading.products.map((product, index) => (index === reading.root ? filled : product)),
      ...depicted.map(namedOnly),
    ],
    uses: [
      ...reading.uses,
      ...depicted.map(({ text }, index): UseReading => ({
        parent: reading.root,
        child: reading.products.length + index,
        name: text.trim(),
        placement: IDENTITY_PLACEMENT,
        relation: 'depicts',
      })),
    ],
  };
}

type RulesByTag = ReadonlyMap<string, TitleBlockRule>;

function rulesByTag(rules: readonly TitleBlockRule[]): RulesByTag {
  return new Map(rules.map((rule) => [rule.tag.toLowerCase(), rule]));
}

/** A field that no rule names is a property. */
function meaningOf({ tag }: Pick<TitleBlockField, 'tag'>, byTag: RulesByTag): FieldMeaning {
  return byTag.get(tag.toLowerCase())?.means ?? 'property';
}

function propertyOf(tag: string, byTag: RulesByTag): string | undefined {
  if (!ARE_PROPERTIES.has(meaningOf({ tag }, byTag))) return undefined;
  return byTag.get(tag.toLowerCase())?.property || propertyName(tag);
}

/** Name of the property that a field of a title block is; undefined where it means something else. */
export function propertyOfField(tag: string, rules: readonly TitleBlockRule[]): string | undefined {
  return propertyOf(tag, rulesByTag(rules));
}

/** What the store says of a drawing, for its title block to say. */
export interface TitleBlockWords {
  readonly rules: readonly TitleBlockRule[];
  readonly properties: readonly PropertyValue[];
}

/**
 * Fields of a title block that say something else than the store, with what they are to say. A value that is only written
 * otherwise (`12,5 kg` for `12.5 kg`) stays as it is. Where several fields are one property, each goes with the value that was
 * read from it; a blank one is filled where no other says the property. `O(fields + properties)`
 */
export function titleBlockChanges(
  fields: readonly TitleBlockField[],
  { rules, properties }: TitleBlockWords,
): { readonly ref: number; readonly to: string }[] {
  const byTag = rulesByTag(rules);
  const values = new Map<string, PropertyValue[]>();
  for (const value of properties) addTo(values, value.name.toLowerCase(), value);
  const byProperty = new Map<string, TitleBlockField[]>();
  for (const field of fields) {
    const name = propertyOf(field.tag, byTag)?.toLowerCase();
    if (name !== undefined && values.has(name)) addTo(byProperty, name, field);
  }
  return [...byProperty].flatMap(([name, own]) =>
    pairedWith(values.get(name) ?? [], own).flatMap(({ field, value }) =>
      saysTheSame(field.text, value) ? [] : [{ ref: field.ref, to: sayValue(value) }],
    ),
  );
}

function pairedWith(
  values: readonly PropertyValue[],
  fields: readonly TitleBlockField[],
): { readonly field: TitleBlockField; readonly value: PropertyValue }[] {
  const filled = fields.filter(({ text }) => text.trim() !== '');
  const [first] = values;
  if (first && values.length === 1) {
    const alike =
      filled.length === 0 ? fields : filled.filter(({ text }) => text.trim() === filled[0]?.text.trim());
    return alike.map((field) => ({ field, value: first }));
  }
  if (values.length !== filled.length) return [];
  return filled.flatMap((field, at) => {
    const value = values[at];
    return value ? [{ field, value }] : [];
  });
}

/** Whether a text says a value, in whatever spelling. */
export function saysTheSame(text: string, value: PropertyValue): boolean {
  const said = text.trim();
  if (said === sayValue(value).trim()) return true;
  if (value.kind === 'text' || said === '') return false;
  const { name, kind } = value;
  const read = parseProperty(name, said, {
    ...{ name, kind },
    unit: value.kind === 'number' ? value.unit : '',
    choices: value.kind === 'choice' ? [value.choice] : [],
  });
  return read.kind === 'value' && isSameValue(read.value, value);
}

/**
 * Properties of a drawing's copy that are not those of its origin: who drew it, and when, written as the origin writes days;
 * whoever checked the origin did not check the copy.
 *
 * @param at local time
 */
export function redrawn(
  properties: readonly PropertyValue[],
  rules: readonly TitleBlockRule[],
  { by, at }: { readonly by: string; readonly at: Date },
): Map<string, PropertyValue> {
  const meanings = new Map(
    rules.map((rule) => [(rule.property || propertyName(rule.tag)).toLowerCase(), rule.means] as const),
  );
  return new Map(
    properties.flatMap((value): [string, PropertyValue][] => {
      const means = meanings.get(value.name.toLowerCase());
      const said = sayValue(value);
      if (means === undefined || said === '') return [];
      const to = { 'drawn by': by, 'drawn on': dayWrittenLike(said, at), checked: '' } as const;
      if (means !== 'drawn by' && means !== 'drawn on' && means !== 'checked') return [];
      return [[value.name, { name: value.name, kind: 'text', text: to[means] }]];
    }),
  );
}

function namedOnly({ ref, text }: TitleBlockField): ProductReading {
  return {
    ref,
    id: text.trim(),
    name: '',
    description: '',
    versionText: '',
    kind: 'part',
    source: 'unknown',
    properties: [],
    byNumber: true,
  };
}

/** `SURFACE_FINISH` becomes `surface finish`. */
function propertyName(tag: string): string {
  return tag
    .replace(/[_\s]+/g, ' ')
    .trim()
    .toLowerCase();
}
