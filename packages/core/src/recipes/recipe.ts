/**
 * Recipes: what wishes a stem understands, and what each does to the plan of a variant. Plain data in and out; what a recipe
 * leads to is a derivation like any other, with a note of the rule that did each part of it.
 */
import type { NameRule } from '../naming/rules.js';
import {
  evaluate,
  ExpressionError,
  fillIn,
  holds,
  isUnitName,
  measured,
  sayMeasured,
  sayPlain,
  type Scope,
  type Value,
} from './expression.js';

export interface WishDefinition {
  /** A word that expressions know it by. */
  readonly name: string;
  /** What people read. */
  readonly label: string;
  readonly kind: 'number' | 'choice' | 'yes/no' | 'text';
  /** Of a number; empty where it has none. */
  readonly unit: string;
  readonly least: number | null;
  readonly most: number | null;
  readonly choices: readonly string[];
  /** Taken where nothing is wished; empty where it must be said. */
  readonly otherwise: string;
}

/** What a rule does. Numbers of items are patterns: `FM-22{arm to cm}`. */
export type RecipeAction =
  | { readonly do: 'swap'; readonly item: string; readonly to: string }
  | { readonly do: 'omit' | 'share' | 'copy'; readonly item: string }
  /** So many of an item in an assembly: further ones are placed one step on from the last, those too many are left out. */
  | {
      readonly do: 'count';
      readonly item: string;
      readonly in: string;
      readonly count: string;
      readonly step: readonly number[];
    }
  | {
      readonly do: 'add';
      readonly item: string;
      readonly in: string;
      readonly like: string;
      readonly at: readonly number[];
    }
  | { readonly do: 'number' | 'name'; readonly item: string; readonly pattern: string }
  | { readonly do: 'property'; readonly item: string; readonly property: string; readonly value: string }
  /** A field of the title blocks of an item's drawings; of every copied drawing where the item is empty. */
  | { readonly do: 'title block'; readonly item: string; readonly field: string; readonly pattern: string }
  | { readonly do: 'configuration'; readonly name: string };

export interface RecipeRule {
  readonly name: string;
  /** An expression; empty for always. */
  readonly when: string;
  readonly then: RecipeAction;
}

/** Wishes with what is to come of them, kept with the recipe as its test. */
export interface RecipeExample {
  readonly name: string;
  readonly wishes: Readonly<Record<string, string>>;
  /** Names of the rules that are to hold. */
  readonly rules: readonly string[];
}

export interface Recipe {
  readonly format: 'stem-trace recipe';
  readonly formatVersion: 1;
  /** Number of what variants are made of. */
  readonly of: string;
  readonly wishes: readonly WishDefinition[];
  readonly rules: readonly RecipeRule[];
  /** What makes the copies' names of those of the origin; texts in them are patterns. */
  readonly names: readonly NameRule[];
  /** Place of a variant, a pattern; beside the origin where empty. */
  readonly place: string;
  /** Whether what was made and proved goes on to checking by itself. */
  readonly sendsOn: boolean;
  readonly examples: readonly RecipeExample[];
}

export const EMPTY_RECIPE: Omit<Recipe, 'of'> = {
  format: 'stem-trace recipe',
  formatVersion: 1,
  wishes: [],
  rules: [],
  names: [],
  place: '',
  sendsOn: false,
  examples: [],
};

/** What is wrong, and with which rule or wish. */
export interface RecipeProblem {
  readonly where: 'wish' | 'rule' | 'names' | 'place' | 'example';
  readonly name: string;
  readonly says: string;
}

/** The tree of what variants are made of, as far as rules may know it. */
export type RecipeTree = Scope['quantity'];

/** What is wrong with a recipe as such, whatever is wished. `O(wishes + rules)` */
export function checkRecipe(recipe: Recipe, quantity: RecipeTree): RecipeProblem[] {
  const problems: RecipeProblem[] = [];
  const seen = new Set<string>();
  for (const wish of recipe.wishes) {
    const says = wrongWish(wish, seen);
    if (says !== undefined) problems.push({ where: 'wish', name: wish.name, says });
    seen.add(wish.name);
  }
  const rules = new Set<string>();
  for (const { name } of recipe.rules) {
    if (name.trim() === '') problems.push({ where: 'rule', name, says: 'it has no name' });
    else if (rules.has(name)) problems.push({ where: 'rule', name, says: 'another rule is called the same' });
    rules.add(name);
  }
  if (problems.length > 0) return problems;
  // Every rule is tried on the example wishes and on those that are taken where nothing is wished.
  const scopes = [{}, ...recipe.examples.map(({ wishes }) => wishes)].flatMap((wishes) => {
    const read = readWishes(recipe, wishes, { isTrial: true });
    return read.problems.length === 0 ? [{ wishes: read.values, quantity }] : [];
  });
  for (const rule of recipe.rules) {
    for (const scope of scopes) {
      const says = triedRule(rule, scope);
      if (says === undefined) continue;
      problems.push({ where: 'rule', name: rule.name, says });
      break;
    }
  }
  for (const example of recipe.examples) {
    const says = wrongExample(recipe, example, quantity);
    if (says !== undefined) problems.push({ where: 'example', name: example.name, says });
  }
  return problems;
}

function wrongWish(
  { name, kind, unit, least, most, choices, otherwise }: WishDefinition,
  seen: ReadonlySet<string>,
): string | undefined {
  if (!/^[A-Za-z][A-Za-z0-9_]{1,39}$/.test(name))
    return 'its name must be a word of letters, digits and _, two at least';
  if (seen.has(name)) return 'another wish is called the same';
  if (isUnitName(name) || RESERVED.has(name))
    return `“${name}” means something else in expressions; choose another word`;
  if (kind === 'number' && unit !== '' && !isUnitName(unit)) return `“${unit}” is no unit that is known`;
  if (kind === 'number' && least !== null && most !== null && least > most)
    return 'its least is more than its most';
  if (kind === 'choice' && choices.length === 0) return 'it has no choices';
  if (otherwise === '') return undefined;
  const read = readWish({ name, label: name, kind, unit, least, most, choices, otherwise }, otherwise);
  return typeof read === 'object' && 'says' in read ? `what is taken otherwise: ${read.says}` : undefined;
}

const RESERVED: ReadonlySet<string> = new Set([
  'true',
  'false',
  'yes',
  'no',
  'and',
  'or',
  'not',
  'to',
  'in',
  'mod',
  'has',
  'quantity',
  'pi',
]);

function triedRule(rule: RecipeRule, scope: Scope): string | undefined {
  try {
    // The action is tried whether the condition holds or not: what is wrong is wrong before anybody wishes for it.
    holds(rule.when, scope);
    actionOf(rule.then, scope);
    return undefined;
  } catch (error) {
    if (error instanceof ExpressionError) return error.message;
    throw error;
  }
}

function wrongExample(
  recipe: Recipe,
  { wishes, rules }: RecipeExample,
  quantity: RecipeTree,
): string | undefined {
  const outcome = applyRecipe(recipe, wishes, quantity);
  const [problem] = outcome.problems;
  if (problem) return `${problem.name}: ${problem.says}`;
  const held = outcome.held;
  const missing = rules.filter((name) => !held.includes(name));
  const besides = held.filter((name) => !rules.includes(name));
  if (missing.length > 0)
    return `${missing.join(', ')} should hold and ${missing.length === 1 ? 'does' : 'do'} not`;
  if (besides.length > 0)
    return `${besides.join(', ')} should not hold and ${besides.length === 1 ? 'does' : 'do'}`;
  return undefined;
}

export interface ReadWishes {
  readonly values: ReadonlyMap<string, Value>;
  /** As they are kept and compared: numbers in the wish's own unit. */
  readonly kept: Readonly<Record<string, string>>;
  readonly problems: readonly RecipeProblem[];
}

/** Reads wishes as people, files and shops write them: `1600 mm` for a wish in metres, `yes`, a choice in any capitals. */
export function readWishes(
  { wishes }: Pick<Recipe, 'wishes'>,
  given: Readonly<Record<string, string | number | boolean>>,
  { isTrial = false }: { readonly isTrial?: boolean } = {},
): ReadWishes {
  const values = new Map<string, Value>();
  const kept: Record<string, string> = {};
  const problems: RecipeProblem[] = [];
  const byName = new Map(
    Object.entries(given).map(([name, value]) => [name.trim().toLowerCase(), String(value).trim()]),
  );
  const known = new Set<string>();
  for (const wish of wishes) {
    known.add(wish.name.toLowerCase()).add(wish.label.toLowerCase());
    const said = byName.get(wish.name.toLowerCase()) ?? byName.get(wish.label.toLowerCase()) ?? '';
    const text = said === '' ? wish.otherwise : said;
    const read = text === '' && isTrial ? trialOf(wish) : readWish(wish, text);
    if ('says' in read) problems.push({ where: 'wish', name: wish.label || wish.name, says: read.says });
    else {
      values.set(wish.name, read.value);
      kept[wish.name] = sayMeasured(read.value);
    }
  }
  for (const name of byName.keys())
    if (!known.has(name)) problems.push({ where: 'wish', name, says: 'the recipe knows no such wish' });
  return { values, kept, problems };
}

type ReadWish = { readonly value: Value } | { readonly says: string };

function trialOf({ kind, unit, least, choices }: WishDefinition): ReadWish {
  if (kind === 'number') return { value: measured(least ?? 1, unit) };
  if (kind === 'yes/no') return { value: false };
  return { value: kind === 'choice' ? (choices[0] ?? '') : 'text' };
}

function readWish(wish: WishDefinition, text: string): ReadWish {
  if (text === '') return { says: 'it is not said' };
  if (wish.kind === 'text')
    return text.length > 200 ? { says: 'it is longer than 200 characters' } : { value: text };
  if (wish.kind === 'yes/no') {
    if (/^(yes|true|1)$/i.test(text)) return { value: true };
    return /^(no|false|0)$/i.test(text) ? { value: false } : { says: `“${text}” is neither yes nor no` };
  }
  if (wish.kind === 'choice') {
    const choice = wish.choices.find((each) => each.toLowerCase() === text.toLowerCase());
    return choice === undefined
      ? { says: `“${text}” is none of ${wish.choices.join(', ')}` }
      : { value: choice };
  }
  return readNumber(wish, text);
}

function readNumber({ unit, least, most }: WishDefinition, text: string): ReadWish {
  const [, digits = '', said = ''] =
    /^([+-]?[0-9]+(?:[.,][0-9]+)?(?:e[+-]?[0-9]+)?)\s*(.*)$/i.exec(text) ?? [];
  if (digits === '') return { says: `“${text}” is no number` };
  const number = Number(digits.replace(',', '.'));
  try {
    const value = said === '' ? measured(number, unit) : inUnit(measured(number, said), unit);
    const size =
      typeof value === 'number' ? value : typeof value === 'object' ? Number(value.toNumeric(unit)) : NaN;
    const bounds = `between ${least ?? 'anything'} and ${most ?? 'anything'}${unit === '' ? '' : ` ${unit}`}`;
    if (!Number.isFinite(size)) return { says: `“${text}” is no number that can be worked with` };
    if ((least !== null && size < least - 1e-9) || (most !== null && size > most + 1e-9))
      return { says: `${text} is not ${bounds}` };
    return { value };
  } catch (error) {
    if (error instanceof ExpressionError) return { says: error.message };
    return { says: `“${said}” does not fit ${unit === '' ? 'a number without unit' : unit}` };
  }
}

function inUnit(value: Value, unit: string): Value {
  if (typeof value !== 'object') return value;
  if (unit === '') throw new ExpressionError('it has no unit');
  return value.to(unit);
}

/** One part of what a recipe leads to, as plain data. */
export type RecipeDeed =
  | { readonly do: 'swap'; readonly item: string; readonly to: string }
  | { readonly do: 'omit' | 'share' | 'copy'; readonly item: string }
  | {
      readonly do: 'count';
      readonly item: string;
      readonly in: string;
      readonly count: number;
      readonly step: readonly number[];
    }
  | {
      readonly do: 'add';
      readonly item: string;
      readonly in: string;
      readonly like: string;
      readonly at: readonly number[];
    }
  | { readonly do: 'number' | 'name'; readonly item: string; readonly text: string }
  | { readonly do: 'property'; readonly item: string; readonly property: string; readonly text: string }
  | { readonly do: 'title block'; readonly item: string; readonly field: string; readonly text: string }
  | { readonly do: 'configuration'; readonly name: string };

export interface RecipeOutcome {
  /** Each with the rule that did it. */
  readonly deeds: readonly { readonly rule: string; readonly deed: RecipeDeed; readonly says: string }[];
  /** Names of the rules that hold, in order. */
  readonly held: readonly string[];
  readonly names: readonly NameRule[];
  readonly place: string;
  /** The wishes as they were understood. */
  readonly wishes: Readonly<Record<string, string>>;
  readonly problems: readonly RecipeProblem[];
}

/**
 * What wishes lead to. Where two rules that hold decide the same differently, that is a problem, not the later one's right: nobody
 * would know which was meant. `O(rules)`
 */
export function applyRecipe(
  recipe: Recipe,
  given: Readonly<Record<string, string | number | boolean>>,
  quantity: RecipeTree,
): RecipeOutcome {
  const read = readWishes(recipe, given);
  const problems: RecipeProblem[] = [...read.problems];
  const deeds: RecipeOutcome['deeds'][number][] = [];
  const held: string[] = [];
  const scope: Scope = { wishes: read.values, quantity };
  const decided = new Map<string, { readonly rule: string; readonly says: string }>();
  for (const rule of problems.length === 0 ? recipe.rules : []) {
    try {
      if (!holds(rule.when, scope)) continue;
      held.push(rule.name);
      const deed = actionOf(rule.then, scope);
      const says = sayDeed(deed);
      const before = decided.get(subjectOf(deed));
      if (before && before.says !== says)
        problems.push({
          where: 'rule',
          name: rule.name,
          says: `it says “${says}”, but ${before.rule} says “${before.says}”`,
        });
      else if (!before) deeds.push({ rule: rule.name, deed, says });
      decided.set(subjectOf(deed), before ?? { rule: rule.name, says });
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      problems.push({ where: 'rule', name: rule.name, says: error.message });
    }
  }
  const filled = (where: 'names' | 'place', pattern: string): string => {
    try {
      return fillIn(pattern, scope);
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      problems.push({
        where,
        name: where === 'names' ? 'names of the copies' : 'place',
        says: error.message,
      });
      return '';
    }
  };
  const isRead = read.problems.length === 0;
  return {
    deeds,
    held,
    names: isRead ? recipe.names.map((rule) => filledRule(rule, (text) => filled('names', text))) : [],
    place: isRead ? filled('place', recipe.place) : '',
    wishes: read.kept,
    problems,
  };
}

function filledRule(rule: NameRule, fill: (text: string) => string): NameRule {
  if (rule.kind === 'replace') return { ...rule, to: fill(rule.to) };
  return rule.kind === 'put' ? { ...rule, text: fill(rule.text) } : rule;
}

const MOST_OF_ONE = 1000;

function actionOf(action: RecipeAction, scope: Scope): RecipeDeed {
  switch (action.do) {
    case 'swap':
      return { do: 'swap', item: action.item, to: fillIn(action.to, scope) };
    case 'omit':
    case 'share':
    case 'copy':
      return { do: action.do, item: action.item };
    case 'count': {
      const count = evaluate(action.count, scope);
      if (typeof count !== 'number' || !Number.isInteger(count) || count < 0 || count > MOST_OF_ONE)
        throw new ExpressionError(
          `the count is ${sayMeasured(count)}, not a whole number up to ${MOST_OF_ONE}`,
        );
      return { do: 'count', item: action.item, in: action.in, count, step: action.step };
    }
    case 'add':
      return { ...action, item: fillIn(action.item, scope) };
    case 'number':
    case 'name': {
      const text = fillIn(action.pattern, scope).trim();
      if (text === '') throw new ExpressionError(`the ${action.do} is empty`);
      return { do: action.do, item: action.item, text };
    }
    case 'property':
      return {
        do: 'property',
        item: action.item,
        property: action.property,
        text: sayMeasured(evaluate(action.value, scope)),
      };
    case 'title block':
      if (action.field.trim() === '') throw new ExpressionError('it names no field of the title block');
      return {
        ...{ do: 'title block', item: action.item, field: action.field.trim() },
        text: fillIn(action.pattern, scope).trim(),
      };
    case 'configuration':
      return { do: 'configuration', name: fillIn(action.name, scope) };
  }
}

/** What a deed decides; two about the same must agree. */
function subjectOf(deed: RecipeDeed): string {
  switch (deed.do) {
    case 'swap':
    case 'omit':
    case 'share':
    case 'copy':
      return `item ${deed.item}`;
    case 'count':
      return `count ${deed.item} in ${deed.in}`;
    case 'add':
      return `add ${JSON.stringify(deed)}`;
    case 'number':
    case 'name':
      return `${deed.do} ${deed.item}`;
    case 'property':
      return `property ${deed.item} ${deed.property.toLowerCase()}`;
    case 'title block':
      return `title block ${deed.item} ${deed.field.toLowerCase()}`;
    case 'configuration':
      return 'configuration';
  }
}

/** A deed as a few words. */
function sayDeed(deed: RecipeDeed): string {
  switch (deed.do) {
    case 'swap':
      return `${deed.item} is swapped for ${deed.to}`;
    case 'omit':
      return `${deed.item} is left out`;
    case 'share':
      return `${deed.item} is shared`;
    case 'copy':
      return `${deed.item} is copied`;
    case 'count':
      return `${deed.count} of ${deed.item} in ${deed.in}`;
    case 'add':
      return `${deed.item} is added to ${deed.in}`;
    case 'number':
      return `${deed.item || 'the variant'} gets the number ${deed.text}`;
    case 'name':
      return `${deed.item || 'the variant'} is called ${deed.text}`;
    case 'property':
      return `${deed.property} of ${deed.item || 'the variant'} is ${deed.text}`;
    case 'title block':
      return `${deed.field} in the title block of ${deed.item ? `drawings of ${deed.item}` : 'every drawing'} is ${deed.text || 'blank'}`;
    case 'configuration':
      return `configuration ${deed.name}`;
  }
}

/** Wishes as one text, the same for the same wishes in whatever order and unit they were written. */
export function sayWishes(
  { wishes }: Pick<Recipe, 'wishes'>,
  { values }: Pick<ReadWishes, 'values'>,
): string {
  return JSON.stringify(
    [...wishes]
      .map(({ name, unit }) => {
        const value = values.get(name);
        return [
          name,
          typeof value === 'object'
            ? Number(Number(value.toNumeric(unit)).toPrecision(9))
            : sayPlain(value ?? ''),
        ];
      })
      .sort(([a], [b]) => (String(a) < String(b) ? -1 : 1)),
  );
}
