/** A proof as a document: every reference of the copied files, what it said, what it says now, and what each witness found. */
import { addTo } from '../collections.js';
import { foundReferences, type ExpectedReference, type Proof, type ProofInput } from './proof.js';

/** What a witness says of a reference; `none` where it has nothing to say about such a one. */
export type Witness = 'right' | 'wrong' | 'none';

export interface ProofRow {
  /** What the reference leads to; or a field of a title block, a fault that belongs to none, or something that is work to do. */
  readonly kind: 'copied' | 'shared' | 'title block' | 'fault' | 'not rewritten';
  /** Path of the file that holds it. */
  readonly path: string;
  /** First line on which it stands; 0 where it stands in no text of its own. */
  readonly line: number;
  readonly parent: string;
  /** Number of what is used; the property, for a field of a title block. */
  readonly child: string;
  readonly quantity: number;
  /** What the stored file says; empty where the child lives in the same file. */
  readonly said: string;
  /** What the file says as it is handed out. */
  readonly says: string;
  /** Path of the file that it leads to. */
  readonly leadsTo: string;
  /** The witness that reads files as they are meant. */
  readonly reader: Witness;
  /** The witness that knows nothing of how files are meant, and looks for texts. */
  readonly census: Witness;
  /** In words, where something is wrong or left to do. */
  readonly note: string;
}

/** A proof with all that it is made of, kept with the derivation. */
export interface ProofDocument extends Proof {
  readonly variant: string;
  readonly origin: string;
  /** ISO 8601. */
  readonly at: string;
  readonly by: string;
  /** What is wrong first, then what is left to do. */
  readonly rows: readonly ProofRow[];
}

/** A reference of the store, with what the files say. */
export interface SaidReference extends ExpectedReference {
  readonly said: string;
  readonly says: string;
}

/**
 * Rows of a proof. `O(references + texts)`
 *
 * @param texts every text of the files with its line, by path, as the second witness found them
 * @param faults what either witness found, each beginning with the path
 * @param fixed paths of copies whose format is not rewritten
 */
export function proofRows(
  input: Pick<ProofInput, 'readings' | 'knownGaps'> & { readonly expected: readonly SaidReference[] },
  {
    texts,
    faults,
    fixed,
  }: {
    readonly texts: ReadonlyMap<string, readonly { readonly line: number; readonly text: string }[]>;
    readonly faults: readonly string[];
    readonly fixed: readonly string[];
  },
): ProofRow[] {
  const isFound = foundReferences(input);
  const lines = new Map(
    [...texts].map(([path, all]) => {
      const first = new Map<string, number>();
      for (const { text, line } of all) if (!first.has(text.trim())) first.set(text.trim(), line);
      return [path, first] as const;
    }),
  );
  const byPath = new Map<string, string[]>();
  for (const fault of faults) addTo(byPath, pathOf(fault), fault);
  const rows = input.expected.map((each, at): ProofRow => {
    const { path, parentNumber, childNumber, childPath, quantity, kind, said, says } = each;
    const own = lines.get(path);
    const text = says === '' ? childNumber : says;
    const line = own?.get(text.trim()) ?? own?.get(childNumber.trim()) ?? 0;
    const named = (byPath.get(path) ?? []).filter((fault) => fault.includes(`'${text}'`));
    const note = isFound[at]
      ? named.join('; ')
      : `${path} does not say that ${parentNumber} uses ${childNumber} ×${quantity} from ${childPath}`;
    return {
      ...{
        kind,
        path,
        line,
        parent: parentNumber,
        child: childNumber,
        quantity,
        said,
        says,
        leadsTo: childPath,
      },
      reader: isFound[at] ? 'right' : 'wrong',
      census: own === undefined || says === '' ? 'none' : named.length > 0 || line === 0 ? 'wrong' : 'right',
      note,
    };
  });
  const told = new Set(rows.flatMap(({ note }) => note.split('; ')));
  const others = faults.filter((fault) => !told.has(fault));
  return [
    ...others.map((fault): ProofRow => ({
      ...BARE_ROW,
      kind: 'fault',
      path: pathOf(fault),
      line: lineOf(fault),
      note: fault,
    })),
    ...rows.filter(isWrong),
    ...fixed.map((path): ProofRow => ({
      ...BARE_ROW,
      ...{ kind: 'not rewritten', path },
      note: 'copied as it is, and may name the origin: change it in the program that it is from',
    })),
    ...rows.filter((row) => !isWrong(row)),
  ];
}

/** Whether something is wrong with a row. */
export function isWrong({ kind, reader, census, note }: ProofRow): boolean {
  return (
    kind === 'fault' || reader === 'wrong' || (kind !== 'not rewritten' && census === 'wrong' && note !== '')
  );
}

/** A row that says nothing. */
export const BARE_ROW: Omit<ProofRow, 'kind' | 'path' | 'note'> = {
  ...{ line: 0, parent: '', child: '', quantity: 0, said: '', says: '', leadsTo: '' },
  ...{ reader: 'none', census: 'none' },
};

function pathOf(fault: string): string {
  return /^(.*?)(?:, line [0-9]+)?: /.exec(fault)?.[1] ?? '';
}

function lineOf(fault: string): number {
  return Number(/^.*?, line ([0-9]+): /.exec(fault)?.[1] ?? 0);
}
