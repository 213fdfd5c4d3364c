/** What the fields of a drawing's title block mean. Companies name them as they like, so a store keeps its own table. */
import type {
  FileReading,
  ProductReading,
  PropertyValue,
  TitleBlockField,
  UseReading,
} from '../model/reading.js';
import { IDENTITY_PLACEMENT } from '../model/link.js';

/** `depicts`: number of the model that the drawing shows. `nothing`: the field is passed over. */
export const FIELD_MEANINGS = ['number', 'name', 'description', 'depicts', 'property', 'nothing'] as const;
export type FieldMeaning = (typeof FIELD_MEANINGS)[number];

export interface TitleBlockRule {
  /** Tag of the field; case does not count. */
  readonly tag: string;
  readonly means: FieldMeaning;
  /** Name of the property, for `property`; made from the tag where absent. */
  readonly property?: string;
}

/** Names of fields that many companies use; a start for a store's own table. */
export const DEFAULT_TITLE_BLOCK: readonly TitleBlockRule[] = [
  ...['DRAWING_NUMBER', 'DRAWING_NO', 'DWG_NO', 'DRAWING'].map((tag) => ({ tag, means: 'number' }) as const),
  ...['TITLE', 'TITLE1', 'NAME'].map((tag) => ({ tag, means: 'name' }) as const),
  ...['PART_NUMBER', 'PART_NO', 'MODEL', 'ITEM'].map((tag) => ({ tag, means: 'depicts' }) as const),
  { tag: 'SUBTITLE', means: 'description' },
];

/** Fills in a drawing's reading from its title block; other readings come back as they are. `O(fields)`. */
export function applyTitleBlock(reading: FileReading, rules: readonly TitleBlockRule[]): FileReading {
  const { titleBlock = [] } = reading;
  const root = reading.products[reading.root];
  if (titleBlock.length === 0 || !root) return reading;
  const byTag = new Map(rules.map((rule) => [rule.tag.toLowerCase(), rule]));
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
      ...said('property').map((field): PropertyValue => ({
        name: byTag.get(field.tag.toLowerCase())?.property ?? propertyName(field.tag),
        kind: 'text',
        text: field.text.trim(),
      })),
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

/** A field that no rule names is a property. */
function meaningOf(field: TitleBlockField, byTag: ReadonlyMap<string, TitleBlockRule>): FieldMeaning {
  return byTag.get(field.tag.toLowerCase())?.means ?? 'property';
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
