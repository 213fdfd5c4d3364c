/**
 * Conditions and values of a recipe: arithmetic, comparisons and choices with units. An expression knows nothing but the
 * wishes and how often something stands in the tree; it has no loops and no functions but those listed here, so that it ends
 * after as many steps as it has parts.
 */
import {
  absDependencies,
  addDependencies,
  ceilDependencies,
  create,
  divideDependencies,
  floorDependencies,
  largerDependencies,
  largerEqDependencies,
  equalDependencies,
  maxDependencies,
  minDependencies,
  multiplyDependencies,
  parseDependencies,
  powDependencies,
  roundDependencies,
  smallerDependencies,
  smallerEqDependencies,
  sqrtDependencies,
  subtractDependencies,
  unaryMinusDependencies,
  unitDependencies,
  type FactoryFunctionMap,
  type MathNode,
  type Unit,
} from 'mathjs';

const math = create(
  {
    ...{ absDependencies, addDependencies, ceilDependencies, divideDependencies, floorDependencies },
    ...{ largerDependencies, largerEqDependencies, equalDependencies, maxDependencies, minDependencies },
    ...{ multiplyDependencies, parseDependencies, powDependencies, roundDependencies, smallerDependencies },
    ...{ smallerEqDependencies, sqrtDependencies, subtractDependencies, unaryMinusDependencies },
    ...{ unitDependencies },
  } as FactoryFunctionMap,
  {},
);

export type Value = number | string | boolean | Unit;

/** What an expression may know. */
export interface Scope {
  readonly wishes: ReadonlyMap<string, Value>;
  /** How often an item stands in the tree in all; `within` an assembly where one is given. */
  readonly quantity: (item: string, within?: string) => number;
}

/** Why an expression has no value, as the end of a sentence. */
export class ExpressionError extends Error {}

export const LONGEST_EXPRESSION = 1000;
const MOST_PARTS = 400;

/** A number with its unit; a number alone where the unit is empty. @throws ExpressionError for a unit that nobody knows */
export function measured(value: number, unit: string): number | Unit {
  if (unit === '') return value;
  try {
    return math.unit(value, unit);
  } catch {
    throw new ExpressionError(`“${unit}” is no unit that is known`);
  }
}

/** Whether a word is a unit, so that no wish can be called so. */
export function isUnitName(word: string): boolean {
  try {
    math.unit(1, word);
    return true;
  } catch {
    return false;
  }
}

/**
 * The value of an expression. `O(parts)`, at most 400.
 *
 * @throws ExpressionError with what is wrong with it, in words
 */
export function evaluate(text: string, scope: Scope): Value {
  if (text.length > LONGEST_EXPRESSION)
    throw new ExpressionError(`it is longer than ${LONGEST_EXPRESSION} characters`);
  const node = parsed(text);
  let parts = 0;
  node.traverse(() => parts++);
  if (parts > MOST_PARTS) throw new ExpressionError(`it has more than ${MOST_PARTS} parts`);
  try {
    return valueOf(node, scope);
  } catch (error) {
    if (error instanceof ExpressionError) throw error;
    throw new ExpressionError(inWords(error));
  }
}

/** A condition; an empty one always holds. @throws ExpressionError also where it is neither true nor false */
export function holds(text: string, scope: Scope): boolean {
  if (text.trim() === '') return true;
  const value = evaluate(text, scope);
  if (typeof value !== 'boolean') throw new ExpressionError(`it is ${sayKind(value)}, not true or false`);
  return value;
}

/**
 * A text in which `{…}` stands for the value of an expression; `{height to mm}` for the number of millimetres.
 *
 * @throws ExpressionError
 */
export function fillIn(pattern: string, scope: Scope): string {
  if (pattern.length > LONGEST_EXPRESSION)
    throw new ExpressionError(`it is longer than ${LONGEST_EXPRESSION} characters`);
  return pattern.replace(/\{([^{}]*)\}/g, (_, expression: string) => sayPlain(evaluate(expression, scope)));
}

/** A value as it stands in a number or a name: without its unit. */
export function sayPlain(value: Value): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string') return value;
  const number = typeof value === 'number' ? value : value.toNumeric(unitOf(value));
  return String(Number(Number(number).toPrecision(10)));
}

/** A value as it is said to people, with its unit. */
export function sayMeasured(value: Value): string {
  if (typeof value !== 'object') return sayPlain(value);
  return `${sayPlain(value)} ${unitOf(value)}`;
}

function unitOf(value: Unit): string {
  return value.formatUnits();
}

function parsed(text: string): MathNode {
  try {
    return math.parse(text);
  } catch (error) {
    throw new ExpressionError(`it cannot be read: ${inWords(error)}`);
  }
}

function inWords(error: unknown): string {
  const says = error instanceof Error ? error.message : String(error);
  if (/units do not match|compare units|dimensions|Unexpected type of argument/i.test(says))
    return 'the units of what is compared or added do not fit';
  return says.charAt(0).toLowerCase() + says.slice(1);
}

function sayKind(value: Value): string {
  return typeof value === 'string' ? 'a text' : typeof value === 'number' ? 'a number' : 'a measure';
}

/** Nodes as the library gives them; only what is used here. */
interface Parts {
  readonly type: string;
  readonly value?: unknown;
  readonly name?: string;
  readonly op?: string;
  readonly fn?: string | { readonly name?: string };
  readonly args?: readonly MathNode[];
  readonly content?: MathNode;
  readonly condition?: MathNode;
  readonly trueExpr?: MathNode;
  readonly falseExpr?: MathNode;
}

function valueOf(node: MathNode, scope: Scope): Value {
  const parts = node as unknown as Parts;
  switch (parts.type) {
    case 'ConstantNode':
      return constant(parts.value);
    case 'ParenthesisNode':
      return valueOf(parts.content as MathNode, scope);
    case 'SymbolNode':
      return named(parts.name ?? '', scope);
    case 'ConditionalNode':
      return isTrue(valueOf(parts.condition as MathNode, scope))
        ? valueOf(parts.trueExpr as MathNode, scope)
        : valueOf(parts.falseExpr as MathNode, scope);
    case 'OperatorNode':
      return operated(parts, scope);
    case 'FunctionNode':
      return called(parts, scope);
    default:
      throw new ExpressionError(`“${node.toString()}” is nothing that a condition or a value can be made of`);
  }
}

function constant(value: unknown): Value {
  if (typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean') return value;
  throw new ExpressionError(`“${String(value)}” is no number, text, true or false`);
}

function named(name: string, { wishes }: Scope): Value {
  const wish = wishes.get(name);
  if (wish !== undefined) return wish;
  if (name === 'true' || name === 'yes') return true;
  if (name === 'false' || name === 'no') return false;
  if (isUnitName(name)) return math.unit(1, name);
  throw new ExpressionError(`there is no wish called “${name}”`);
}

function isTrue(value: Value): boolean {
  if (typeof value !== 'boolean')
    throw new ExpressionError(`${sayKind(value)} is used where it must be true or false`);
  return value;
}

type Binary = (one: Value, two: Value) => unknown;

const OPERATORS: Readonly<Record<string, Binary>> = {
  '+': (one, two) =>
    typeof one === 'string' || typeof two === 'string'
      ? `${sayPlain(one)}${sayPlain(two)}`
      : math.add(one as number, two as number),
  '-': (one, two) => math.subtract(numeric(one), numeric(two)),
  '*': (one, two) => math.multiply(numeric(one), numeric(two)),
  '/': (one, two) => math.divide(numeric(one), numeric(two)),
  '^': (one, two) => math.pow(numeric(one), numeric(two)),
  '<': (one, two) => math.smaller(numeric(one), numeric(two)),
  '<=': (one, two) => math.smallerEq(numeric(one), numeric(two)),
  '>': (one, two) => math.larger(numeric(one), numeric(two)),
  '>=': (one, two) => math.largerEq(numeric(one), numeric(two)),
  '==': isEqual,
  '!=': (one, two) => !isEqual(one, two),
};

function operated({ op = '', args = [] }: Parts, scope: Scope): Value {
  const [first, second] = args;
  if (!first) throw new ExpressionError(`“${op}” has nothing to work on`);
  if (op === 'and') return isTrue(valueOf(first, scope)) && isTrue(valueOf(second as MathNode, scope));
  if (op === 'or') return isTrue(valueOf(first, scope)) || isTrue(valueOf(second as MathNode, scope));
  if (op === 'not') return !isTrue(valueOf(first, scope));
  if (second && (op === 'to' || op === 'in')) return measure(valueOf(first, scope)).to(second.toString());
  if (!second && op === '-') return checked(math.unaryMinus(numeric(valueOf(first, scope))));
  if (!second && op === '+') return numeric(valueOf(first, scope));
  const operator = second && Object.hasOwn(OPERATORS, op) ? OPERATORS[op] : undefined;
  if (!operator || !second) throw new ExpressionError(`“${op}” is not understood`);
  return checked(operator(valueOf(first, scope), valueOf(second, scope)));
}

const FUNCTIONS: Readonly<Record<string, (...values: never[]) => unknown>> = {
  abs: math.abs as never,
  ceil: math.ceil as never,
  floor: math.floor as never,
  max: math.max as never,
  min: math.min as never,
  round: math.round as never,
  sqrt: math.sqrt as never,
};

function called({ fn, args = [] }: Parts, scope: Scope): Value {
  const name = typeof fn === 'string' ? fn : (fn?.name ?? '');
  const values = args.map((arg) => valueOf(arg, scope));
  if (name === 'quantity' || name === 'has') {
    const [item, within] = values;
    if (typeof item !== 'string' || (within !== undefined && typeof within !== 'string') || values.length > 2)
      throw new ExpressionError(
        `${name} wants the number of an item in quotes, and perhaps that of an assembly`,
      );
    const quantity = scope.quantity(item, within);
    return name === 'has' ? quantity > 0 : quantity;
  }
  const worker = Object.hasOwn(FUNCTIONS, name) ? FUNCTIONS[name] : undefined;
  if (!worker) throw new ExpressionError(`there is no function called “${name}”`);
  return checked(worker(...(values.map(numeric) as never[])));
}

function numeric(value: Value): number {
  if (typeof value === 'string' || typeof value === 'boolean')
    throw new ExpressionError(
      `${typeof value === 'string' ? `the text “${value}”` : 'true or false'} is used where a number is wanted`,
    );
  return value as number;
}

function measure(value: Value): Unit {
  if (typeof value !== 'object') throw new ExpressionError('only a measure can be told in another unit');
  return value;
}

function isEqual(one: Value, two: Value): boolean {
  if (
    typeof one === 'object' ||
    typeof two === 'object' ||
    typeof one === 'number' ||
    typeof two === 'number'
  )
    return math.equal(numeric(one), numeric(two)) as boolean;
  if (typeof one !== typeof two) throw new ExpressionError('a text is compared with true or false');
  return typeof one === 'string' && typeof two === 'string'
    ? one.toLowerCase() === two.toLowerCase()
    : one === two;
}

function checked(value: unknown): Value {
  if (typeof value === 'boolean' || typeof value === 'string') return value;
  if (typeof value === 'number') {
    if (!Number.isFinite(value)) throw new ExpressionError('it has no finite value');
    return value;
  }
  if (math.isUnit(value)) return value;
  throw new ExpressionError('its value is no number, text, true or false');
}
