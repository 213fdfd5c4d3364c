/** Changes of a recipe that is being edited, and how its parts are written in fields. */
import type {
  Recipe,
  RecipeAction,
  RecipeExample,
  RecipeRule,
  WishDefinition,
} from '@stem-trace/core/recipes';

export const NEW_WISH: WishDefinition = {
  ...{ name: '', label: '', kind: 'number', unit: '', least: null, most: null, choices: [], otherwise: '' },
};

export const NEW_RULE: RecipeRule = { name: '', when: '', then: { do: 'omit', item: '' } };

export const NEW_EXAMPLE: RecipeExample = { name: '', wishes: {}, rules: [] };

export const ACTIONS: readonly { readonly key: RecipeAction['do']; readonly text: string }[] = [
  { key: 'swap', text: 'swap' },
  { key: 'omit', text: 'leave out' },
  { key: 'share', text: 'share' },
  { key: 'copy', text: 'copy' },
  { key: 'count', text: 'so many of' },
  { key: 'add', text: 'add' },
  { key: 'number', text: 'number' },
  { key: 'name', text: 'name' },
  { key: 'property', text: 'property' },
  { key: 'title block', text: 'title block' },
  { key: 'configuration', text: 'configuration' },
];

/** A field of an action, by its name, with what it is called. */
export interface ActionField {
  readonly key: string;
  readonly label: string;
}

const FIELDS: Readonly<Record<RecipeAction['do'], readonly ActionField[]>> = {
  swap: [
    { key: 'item', label: 'item' },
    { key: 'to', label: 'for' },
  ],
  omit: [{ key: 'item', label: 'item' }],
  share: [{ key: 'item', label: 'item' }],
  copy: [{ key: 'item', label: 'item' }],
  count: [
    { key: 'count', label: 'how many' },
    { key: 'item', label: 'of item' },
    { key: 'in', label: 'in' },
    { key: 'step', label: 'step x, y, z in mm' },
  ],
  add: [
    { key: 'item', label: 'item' },
    { key: 'in', label: 'to' },
    { key: 'like', label: 'placed like' },
    { key: 'at', label: 'moved by x, y, z in mm' },
  ],
  number: [
    { key: 'item', label: 'of item, empty for the variant' },
    { key: 'pattern', label: 'is' },
  ],
  name: [
    { key: 'item', label: 'of item, empty for the variant' },
    { key: 'pattern', label: 'is' },
  ],
  property: [
    { key: 'property', label: 'property' },
    { key: 'item', label: 'of item, empty for the variant' },
    { key: 'value', label: 'is' },
  ],
  'title block': [
    { key: 'field', label: 'field' },
    { key: 'item', label: 'in drawings of, empty for all' },
    { key: 'pattern', label: 'says' },
  ],
  configuration: [{ key: 'name', label: 'called' }],
};

export function fieldsOf(action: RecipeAction): readonly ActionField[] {
  return FIELDS[action.do];
}

/** What a field of an action says; coordinates with commas. */
export function fieldText(action: RecipeAction, key: string): string {
  const value = (action as unknown as Readonly<Record<string, string | readonly number[]>>)[key] ?? '';
  return typeof value === 'string' ? value : value.join(', ');
}

/** An action with a field as it was typed. */
export function withField(action: RecipeAction, key: string, text: string): RecipeAction {
  const isPlace = key === 'step' || key === 'at';
  return { ...action, [key]: isPlace ? coordinates(text) : text } as RecipeAction;
}

/** An action of another kind that keeps what both have. */
export function asKind(action: RecipeAction, kind: RecipeAction['do']): RecipeAction {
  const fields = FIELDS[kind].map(({ key }) => {
    const text = fieldText(action, key);
    return [key, key === 'step' || key === 'at' ? coordinates(text) : text] as const;
  });
  return { do: kind, ...Object.fromEntries(fields) } as unknown as RecipeAction;
}

function coordinates(text: string): number[] {
  const numbers = text.split(',').map((part) => Number(part.trim()) || 0);
  return [numbers[0] ?? 0, numbers[1] ?? 0, numbers[2] ?? 0];
}

/** `arm = 1.6 m, heater = no` */
export function wishesText(wishes: RecipeExample['wishes']): string {
  return Object.entries(wishes)
    .map(([name, value]) => `${name} = ${value}`)
    .join(', ');
}

export function wishesIn(text: string): RecipeExample['wishes'] {
  return Object.fromEntries(
    text.split(/,(?=[^,]*=)/).flatMap((part) => {
      const at = part.indexOf('=');
      return at < 0 ? [] : [[part.slice(0, at).trim(), part.slice(at + 1).trim()] as const];
    }),
  );
}

/** What is put behind the numbers of all copies. */
export function endingOf({ names }: Recipe): string {
  const [rule] = names;
  return rule?.kind === 'put' && rule.at === 'end' ? rule.text : '';
}

export function withEnding(recipe: Recipe, text: string): Recipe {
  return { ...recipe, names: text === '' ? [] : [{ kind: 'put', of: 'numbers', at: 'end', text }] };
}

/** A list with one of its members changed, taken away, or moved. */
export function replaced<T>(list: readonly T[], at: number, value: T): T[] {
  return list.map((each, index) => (index === at ? value : each));
}

export function without<T>(list: readonly T[], at: number): T[] {
  return list.filter((_, index) => index !== at);
}

export function moved<T>(list: readonly T[], at: number, by: -1 | 1): T[] {
  const next = [...list];
  const [one, other] = [next[at], next[at + by]];
  if (one === undefined || other === undefined) return next;
  next[at] = other;
  next[at + by] = one;
  return next;
}
