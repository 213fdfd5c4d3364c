/**
 * The statements of a STEP file as a graph: where each instance stands, what it refers to and who refers to it. It is what is
 * needed to take instances out of a file or to put others in without touching the rest.
 */
import { StepError, lineAt } from './errors.js';
import { ascii, isDigit, isNameByte, skipBlanks } from './records.js';

/** One statement: an instance of the data section, or what the sections of edition 3 say of instances. */
export interface Statement {
  /** Instance number; negative for an anchor, which names an instance and is none. */
  readonly id: number;
  /** From its first byte to behind its `;`. */
  readonly start: number;
  readonly end: number;
  /** First byte behind the `=`. */
  readonly body: number;
  /** Every instance that it refers to; one that it names twice stands here twice. */
  readonly refs: readonly number[];
}

export class StatementGraph {
  private readonly byId = new Map<number, Statement>();
  private readonly referrers = new Map<number, Statement[]>();
  private largest = 0;

  /** @param endOfData place of the `ENDSEC` that closes the last data section: new instances go before it */
  private constructor(
    readonly bytes: Uint8Array,
    readonly statements: readonly Statement[],
    readonly endOfData: number,
  ) {
    for (const statement of statements) {
      this.byId.set(statement.id, statement);
      this.largest = Math.max(this.largest, statement.id);
      for (const ref of new Set(statement.refs)) {
        const list = this.referrers.get(ref);
        if (list) list.push(statement);
        else this.referrers.set(ref, [statement]);
      }
    }
  }

  /** @param bytes a file that `readStep` accepts. `O(bytes)` */
  static of(bytes: Uint8Array): StatementGraph {
    const statements: Statement[] = [];
    let section = '';
    let endOfData = 0;
    let at = bytes[0] === 0xef ? 3 : 0;
    for (;;) {
      at = skipBlanks(bytes, at);
      if (at >= bytes.length) break;
      const start = at;
      const refs: number[] = [];
      const end = readStatement(bytes, at, (_from, _to, id) => refs.push(id));
      const first = bytes[start];
      if (first === HASH && (section === 'DATA' || section === 'REFERENCE'))
        statements.push({ ...named(bytes, start), start, end, refs: refs.slice(1) });
      else if (first === ANGLE && section === 'ANCHOR')
        statements.push({ id: -start, start, end, body: start, refs });
      else {
        const word = wordAt(bytes, start);
        if (word === 'ENDSEC') {
          if (section === 'DATA') endOfData = start;
          section = '';
        } else if (word === 'END-ISO-10303-21') break;
        else if (section === '') section = word;
      }
      at = end;
    }
    return new StatementGraph(bytes, statements, endOfData);
  }

  get(id: number): Statement | undefined {
    return this.byId.get(id);
  }

  /** The largest of its instance numbers. */
  get largestNumber(): number {
    return this.largest;
  }

  /** Where the instance numbers of a statement stand: the `#` and the end of each, its own first. `O(bytes of it)` */
  numberPlaces({ start }: Statement): [from: number, to: number][] {
    const places: [number, number][] = [];
    readStatement(this.bytes, start, (from, to) => places.push([from, to]));
    return places;
  }

  /** The statement that a place lies in. `O(log statements)` */
  at(place: number): Statement | undefined {
    let [low, high] = [0, this.statements.length - 1];
    while (low <= high) {
      const middle = (low + high) >> 1;
      const statement = this.statements[middle];
      if (!statement) return undefined;
      if (place < statement.start) high = middle - 1;
      else if (place >= statement.end) low = middle + 1;
      else return statement;
    }
    return undefined;
  }

  /** Who refers to an instance, in the order of the file. */
  referrersOf(id: number): readonly Statement[] {
    return this.referrers.get(id) ?? [];
  }

  /** Type of an instance; empty for a complex one. */
  typeOf({ body }: Statement): string {
    return wordAt(this.bytes, body);
  }

  /** Numbers that no instance has, behind the largest where programs that count in 32 bits can read them, else from 1 on. */
  *freeNumbers(): Generator<number> {
    const isHigh = this.largest < LARGEST - this.statements.length - 1_000_000;
    for (let id = isHigh ? this.largest + 1 : 1; ; id++) if (!this.byId.has(id)) yield id;
  }

  /** The brackets of a statement, outer ones first. */
  groupsOf({ body, end }: Pick<Statement, 'body' | 'end'>): Group[] {
    return groupsIn(this.bytes, body, end);
  }
}

const LARGEST = 2_147_483_647;
const HASH = 35;
const ANGLE = 60;

/** What stands between two brackets. */
export interface Group {
  /** Attributes of a record or of a typed value; or a list of values, which may have fewer or more. */
  readonly kind: 'attributes' | 'list';
  /** Places of the brackets. */
  readonly open: number;
  close: number;
  readonly items: GroupItem[];
}

export interface GroupItem {
  readonly start: number;
  end: number;
  /** The instance, where the item is just a reference. */
  ref?: number;
}

/** Reads past a statement. @returns the place behind its `;` */
function readStatement(
  bytes: Uint8Array,
  from: number,
  found: (start: number, end: number, id: number) => void,
): number {
  for (let at = from; at < bytes.length; at++) {
    const byte = bytes[at] as number;
    if (byte === 39) at = endOfString(bytes, at);
    else if (byte === 34) at = bytes.indexOf(34, at + 1);
    else if (byte === 47 && bytes[at + 1] === 42) at = skipBlanks(bytes, at) - 1;
    else if (byte === HASH && isDigit(bytes[at + 1])) {
      const start = at;
      let id = 0;
      while (isDigit(bytes[at + 1])) id = id * 10 + (bytes[++at] as number) - 48;
      found(start, at + 1, id);
    } else if (byte === 59) return at + 1;
    if (at < from) break;
  }
  throw new StepError('the file is cut inside a statement', lineAt(bytes, from));
}

function named(bytes: Uint8Array, start: number): { id: number; body: number } {
  let at = start + 1;
  let id = 0;
  while (isDigit(bytes[at])) id = id * 10 + (bytes[at++] as number) - 48;
  return { id, body: skipBlanks(bytes, skipBlanks(bytes, at) + 1) };
}

function wordAt(bytes: Uint8Array, from: number): string {
  let end = from;
  while (isNameByte(bytes[end])) end++;
  return ascii(bytes, from, end).toUpperCase();
}

/** The closing apostrophe; two in a row are one that is meant. */
function endOfString(bytes: Uint8Array, open: number): number {
  for (let at = open + 1; at < bytes.length; at++) {
    if (bytes[at] !== 39) continue;
    if (bytes[at + 1] !== 39) return at;
    at++;
  }
  return bytes.length;
}

function groupsIn(bytes: Uint8Array, body: number, end: number): Group[] {
  const groups: Group[] = [];
  const open: Group[] = [];
  let item: GroupItem | undefined;
  let behindName = false;
  const close = (at: number): void => {
    if (item) item.end = at;
    item = undefined;
  };
  for (let at = body; at < end; at++) {
    const byte = bytes[at] as number;
    const group = open.at(-1);
    if (byte <= 32) continue;
    if (byte === 47 && bytes[at + 1] === 42) {
      at = skipBlanks(bytes, at) - 1;
      continue;
    }
    if (byte === 44) {
      close(at);
      behindName = false;
      continue;
    }
    if (byte === 41) {
      close(at);
      const done = open.pop();
      if (done) done.close = at;
      // The bracket was an item of the one around it.
      item = open.at(-1)?.items.at(-1);
      behindName = false;
      continue;
    }
    if (group && !item) {
      item = { start: at, end: at };
      group.items.push(item);
    }
    if (byte === 40) {
      const next: Group = { kind: behindName ? 'attributes' : 'list', open: at, close: at, items: [] };
      groups.push(next);
      open.push(next);
      item = undefined;
      behindName = false;
    } else if (byte === 39) at = endOfString(bytes, at);
    else if (byte === 34) at = bytes.indexOf(34, at + 1);
    else if (byte === HASH) {
      let id = 0;
      while (isDigit(bytes[at + 1])) id = id * 10 + (bytes[++at] as number) - 48;
      if (item) item.ref = id;
    } else {
      behindName = isNameByte(byte) && byte > 57;
      while (behindName && isNameByte(bytes[at + 1])) at++;
    }
  }
  return groups;
}
