/** Reckoning with amounts, exactly. */
import Big from 'big.js';
import type { Amount, AmountRole } from '../model/amount.js';
import { areCompatible, toSi } from '../quantity/quantity.js';

/** Digits that a number may have, before and after the point together. */
const MOST_DIGITS = 30;
const DECIMAL = /^-?\d+(\.\d+)?$/;

/** @returns the decimal in its one spelling; undefined where it is none, or longer than anybody needs */
export function decimalOf(text: string): string | undefined {
  const trimmed = text.trim().replace(/^\+/, '');
  if (!DECIMAL.test(trimmed) || trimmed.replace(/[-.]/g, '').length > MOST_DIGITS) return undefined;
  return new Big(trimmed).toFixed();
}

/** Whether it is one that can be reckoned with, whoever sent it: not below zero, its numbers in their one spelling. */
export function isAmount({ value, unit, basis, scrap = '0', step = '1' }: Amount): boolean {
  const isNumber = (text: string): boolean => decimalOf(text) === text && !text.startsWith('-');
  if (basis === 'as required') return value === '' && unit === '';
  return isNumber(value) && isNumber(scrap) && isNumber(step) && step !== '0' && unit === unit.trim();
}

/** @param count a safe number of pieces */
export function pieces(count: number): Amount {
  return { value: String(count), unit: '', basis: 'each' };
}

export const AS_REQUIRED: Amount = { value: '', unit: '', basis: 'as required' };

/** From the end to the beginning: each leaves a shorter text. */
const ROLE = /\s+(by-product|reference)$/i;
const STEP = /\s+rounded up to\s+(\d+(?:\.\d+)?)$/i;
const LOSS = /\s*\+\s*(\d+(?:\.\d+)?)\s*%$/;
const COUNTED_BY = /\s+(?:(per batch)|(fixed)|each)$/i;
const NUMBER_AND_UNIT = /^(\d+(?:\.\d+)?)\s*([\p{L}°][\p{L}°/*·⋅²³0-9 ]*)?$/u;
/** As lists write it, in the languages that they come in. */
const PIECES = /^(pcs?|pieces?|ea|each|nos?|off|stk|st|st(ü|ue)ck|pi[eè]ces?|un)$/i;
const MOST_UNIT = 20;
const NO_UNIT = /^e\d|\b(per|fixed|rounded|reference|by)\b/i;

/**
 * Reads what a person writes: `4`, `0.4 m`, `2 ml per batch`, `1 fixed`, `as required`, `0.4 m + 5 %`, `7 m rounded up to 2`,
 * `0.1 kg by-product`, `1 reference`; several of these in this order.
 *
 * @returns undefined where it is none of that, or below zero
 */
export function parseAmount(text: string): Amount | undefined {
  let rest = text.trim().replace(/^\+\s*/, '');
  const role = ROLE.exec(rest);
  if (role) rest = rest.slice(0, role.index);
  const said = role ? { role: role[1]?.toLowerCase() as AmountRole } : {};
  if (/^as required$/i.test(rest)) return { ...AS_REQUIRED, ...said };
  const rounded = STEP.exec(rest);
  const step = rounded && decimalOf(rounded[1] ?? '');
  if (rounded) rest = rest.slice(0, rounded.index);
  const loss = LOSS.exec(rest);
  if (loss) rest = rest.slice(0, loss.index);
  const counted = COUNTED_BY.exec(rest);
  if (counted) rest = rest.slice(0, counted.index);
  const found = NUMBER_AND_UNIT.exec(rest);
  const value = found && decimalOf(found[1] ?? '');
  const unit = (found?.[2] ?? '').trim();
  // `1e5` is a number that nobody writes for an amount.
  if (!value || unit.length > MOST_UNIT || NO_UNIT.test(unit) || step === '0') return undefined;
  return {
    value,
    unit: PIECES.test(unit) ? '' : unit,
    basis: counted?.[1] ? 'batch' : counted?.[2] ? 'fixed' : 'each',
    ...(loss ? { scrap: new Big(loss[1] ?? '0').div(100).toFixed() } : {}),
    ...(step ? { step } : {}),
    ...said,
  };
}

/** As `parseAmount` reads it. */
export function sayAmount({ value, unit, basis, scrap, step, role }: Amount): string {
  if (basis === 'as required') return role === undefined ? 'as required' : `as required ${role}`;
  return [
    value,
    unit,
    basis === 'batch' ? 'per batch' : basis === 'fixed' ? 'fixed' : '',
    scrap === undefined || Number(scrap) === 0 ? '' : `+ ${new Big(scrap).times(100).toFixed()} %`,
    step === undefined ? '' : `rounded up to ${step}`,
    role ?? '',
  ]
    .filter(Boolean)
    .join(' ');
}

/** Decimals as numbers as long as nothing is lost by that; the long way is a hundred times slower. */
const SAFE = /^\d{1,7}$/;

function product(a: string, b: string): string {
  return SAFE.test(a) && SAFE.test(b) ? String(Number(a) * Number(b)) : new Big(a).times(b).toFixed();
}

/** Decimals added exactly. */
export function total(a: string, b: string): string {
  return SAFE.test(a) && SAFE.test(b) ? String(Number(a) + Number(b)) : new Big(a).plus(b).toFixed();
}

/**
 * What so many of the parent need. What is fixed, per batch or as required does not grow with them.
 *
 * @param count decimal
 */
export function timesAmount(amount: Amount, count: string): Amount {
  return amount.basis === 'each' ? { ...amount, value: product(amount.value, count) } : amount;
}

/**
 * How many there are to look into, where so much is needed in all: of what is fixed, per batch or as required, one; of what is not
 * needed, none.
 */
export function countInside({ basis, value, role }: Amount): string {
  if (role !== undefined) return '0';
  return basis === 'each' && value !== '' ? value : '1';
}

/** What must be there for it: with what is lost, up to a multiple of what it is bought in. */
export function grossAmount(amount: Amount): Amount {
  if (amount.basis === 'as required') return amount;
  const lost = new Big(amount.value).times(new Big(1).plus(amount.scrap ?? 0));
  const step = amount.step === undefined ? undefined : new Big(amount.step);
  const gross = step?.gt(0) ? lost.div(step).round(0, Big.roundUp).times(step) : lost;
  const { scrap: _, step: __, ...net } = amount;
  return { ...net, value: gross.toFixed() };
}

/** Whether two amounts add up to one: counted by the same, lost and bought alike, in units that can be compared. */
function addsTo(a: Amount, b: Amount): boolean {
  return (
    a.basis === b.basis &&
    a.role === b.role &&
    (a.scrap ?? '0') === (b.scrap ?? '0') &&
    (a.step ?? '') === (b.step ?? '') &&
    (a.unit === b.unit || areCompatible(a.unit, b.unit))
  );
}

/** Sum in the unit of the first. @throws Error where they do not add up, see `addsTo` */
export function plusAmount(a: Amount, b: Amount): Amount {
  if (!addsTo(a, b)) throw new Error(`${sayAmount(a)} and ${sayAmount(b)} do not add up`);
  if (a.basis === 'as required') return a;
  return { ...a, value: total(a.value, inUnit(b, a.unit)) };
}

/** Digits beyond which a conversion between units says nothing. */
const CONVERTED_DIGITS = 12;

function inUnit({ value, unit }: Amount, wanted: string): string {
  if (unit === wanted) return value;
  const [one, other] = [toSi(1, unit), toSi(1, wanted)];
  if (!one || !other) return value;
  const ratio = Number((one.value / other.value).toPrecision(CONVERTED_DIGITS));
  return new Big(value).times(ratio).toFixed();
}

/** Two values as near as this are one: 1 in and 25.4 mm. */
const TOLERANCE = 1e-9;

/** Whether two amounts mean the same, whatever unit they are written in. */
export function isSameAmount(a: Amount, b: Amount): boolean {
  if (a.basis !== b.basis || a.role !== b.role) return false;
  if ((a.scrap ?? '0') !== (b.scrap ?? '0') || (a.step ?? '') !== (b.step ?? '')) return false;
  if (a.unit === b.unit) return a.value === b.value;
  const [left, right] = [toSi(Number(a.value), a.unit), toSi(Number(b.value), b.unit)];
  return left !== undefined && left.unit === right?.unit && isNear(left.value, right.value);
}

/** @returns whether two numbers are one, as far as measuring goes */
export function isNear(a: number, b: number): boolean {
  return Math.abs(a - b) <= TOLERANCE * Math.max(Math.abs(a), Math.abs(b));
}

/** Amounts that may not add up to one: each kind by itself, in the order in which they came. References add to nothing. */
export class AmountSum {
  private readonly parts: Amount[] = [];

  add(amount: Amount): void {
    if (amount.role === 'reference') return;
    const at = this.parts.findIndex((part) => addsTo(part, amount));
    const known = this.parts[at];
    if (known) this.parts[at] = plusAmount(known, amount);
    else this.parts.push(amount);
  }

  get amounts(): readonly Amount[] {
    return this.parts;
  }
}
