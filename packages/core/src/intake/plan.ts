/**
 * Works out what an intake will do, as plain data, before anything is written: which product of which file
 * becomes which item, what each file refers to, what is new, changed, unchanged, doubled or in the way.
 *
 * The plan is worked out twice with the same code: for the review table, and again inside the transaction that
 * carries it out, on what the store holds then.
 */
import { isChange } from '../change/contents.js';
import { numberKey, validateNumber } from '../numbering/number.js';
import { isModel, ownersByName } from './belonging.js';
import { draftRows, type Draft } from './draft.js';
import { identify } from './identify.js';
import { FileIndex } from './locate.js';
import {
  comesIn,
  type IntakeOptions,
  type IntakePlan,
  type IntakeRow,
  type RowStatus,
} from './plan-types.js';
import { refuseCycles } from './refuse-cycles.js';
import { linksOf, pathAndId } from './resolve-links.js';
import { DEFAULT_TITLE_BLOCK } from './title-block.js';

/** Plans an intake. `O(files + products + uses)`. */
export function planIntake(options: IntakeOptions): IntakePlan {
  const readable = options.files.filter((file) => file.reading !== undefined);
  const index = new FileIndex(readable.map((file) => file.path));
  const drafts = draftRows(readable, index, options.titleBlock ?? DEFAULT_TITLE_BLOCK);
  const owners = ownersByName(drafts, options);
  identify(drafts, { index, owners, options });
  decideStatus(drafts, options);
  const byKey = new Map(drafts.map((draft) => [draft.key, draft]));
  const rootOf = new Map(
    drafts.flatMap((draft) => (draft.carrierKey === undefined ? [[draft.file.path, draft.key]] : [])),
  );
  const byPathAndId = new Map(
    drafts.map((draft) => [pathAndId(draft.file.path, draft.product.id), draft.key]),
  );
  const byNumber = new Map(
    drafts.flatMap((draft) => (comesIn(draft) ? [[numberKey(draft.number), draft] as const] : [])),
  );
  const scope = { index, byKey, rootOf, byPathAndId, byId: rowsById(drafts), byNumber, owners, options };
  for (const draft of drafts) draft.links = linksOf(draft, scope);
  refuseCycles(byKey);
  return {
    rows: drafts.map(toRow),
    problems: [
      ...options.files.flatMap((file) => (file.problem ? [{ file: file.path, ...file.problem }] : [])),
      ...drafts.flatMap(({ file, status }) =>
        status.kind === 'problem' ? [{ file: file.path, line: status.line, reason: status.reason }] : [],
      ),
    ],
    gaps: gapsOf(drafts),
    passedOver: options.files.flatMap((file) =>
      file.passedOver ? [{ file: file.path, reason: file.passedOver }] : [],
    ),
  };
}

function gapsOf(drafts: readonly Draft[]): IntakePlan['gaps'] {
  return drafts
    .filter(comesIn)
    .flatMap((draft) =>
      draft.links.flatMap((link) =>
        link.target.kind === 'gap'
          ? [{ file: draft.file.path, locator: link.product.locator ?? link.product.id }]
          : [],
      ),
    );
}

function decideStatus(drafts: readonly Draft[], options: IntakeOptions): void {
  const byNumber = new Map<string, Draft>();
  const byKey = new Map<string, Draft>();
  for (const draft of drafts) {
    byKey.set(draft.key, draft);
    draft.status = statusOf(draft, { byNumber, byKey, options });
    if (comesIn(draft)) byNumber.set(numberKey(draft.number), draft);
  }
}

function statusOf(
  draft: Draft,
  {
    byNumber,
    byKey,
    options,
  }: { byNumber: Map<string, Draft>; byKey: Map<string, Draft>; options: IntakeOptions },
): RowStatus {
  if (options.corrections?.get(draft.key)?.leaveOut) return { kind: 'leftOut' };
  const carrier = draft.carrierKey === undefined ? undefined : byKey.get(draft.carrierKey);
  if (carrier?.status.kind === 'leftOut') return { kind: 'leftOut' };
  if (carrier?.status.kind === 'problem') {
    return {
      kind: 'problem',
      line: 0,
      reason: `lives in the file of '${carrier.number}', which cannot come in`,
    };
  }
  const twin = byNumber.get(numberKey(draft.number));
  if (twin && twin.file.sha256 === draft.file.sha256 && twin.product.ref === draft.product.ref) {
    return { kind: 'sameAs', key: twin.key };
  }
  if (twin) {
    return {
      kind: 'problem',
      line: 0,
      reason: `number '${draft.number}' is also that of a different product in ${twin.file.path}; give one of them another number, or leave one out`,
    };
  }
  const invalid = validateNumber(draft.number);
  if (invalid) return { kind: 'problem', line: 0, reason: `number '${draft.number}': ${invalid}` };
  const { known, rival } = draft;
  if (!known) return { kind: 'new' };
  if (!known.isVisible) {
    return {
      kind: 'problem',
      line: 0,
      reason: `number '${draft.number}' is taken by something that is not visible to you; choose another`,
    };
  }
  if (known.kind === 'bill') {
    return {
      kind: 'problem',
      line: 0,
      reason: `number '${draft.number}' is that of a bill, which is edited in Build and not by files; give this ${draft.product.kind} a number of its own`,
    };
  }
  if (isChange(known.kind)) {
    return {
      kind: 'problem',
      line: 0,
      reason: `number '${draft.number}' is that of a change ${known.kind}, which is written in Change and not by files; give this ${draft.product.kind} a number of its own`,
    };
  }
  if (isModel(known.kind) !== isModel(draft.product.kind)) {
    return {
      kind: 'problem',
      line: 0,
      reason: `number '${draft.number}' is that of a ${known.kind} in the store; give this ${draft.product.kind} a number of its own`,
    };
  }
  if (draft.file.asFetched || (known.newest.sha256 === draft.file.sha256 && !rival))
    return { kind: 'unchanged', of: known };
  if (known.number !== draft.number) draft.notes.push(`In the store the number is written ${known.number}.`);
  if (!rival) return { kind: 'newVersion', of: known };
  const isChosen =
    options.overwrite?.has(draft.key) || options.corrections?.get(draft.key)?.number !== undefined;
  const what = `${known.number} is already in the store (${known.newest.label}, ${known.state}), and differs by ${rival.differs}`;
  if (isChosen) {
    draft.notes.push(`${what}. It becomes a version of it, as was chosen.`);
    return { kind: 'newVersion', of: known, takesOver: true };
  }
  return {
    kind: 'refused',
    of: known,
    reason: `${what}; give it a number of its own, leave it out, or hold ${known.number} and choose to replace it`,
    canOverwrite: true,
    takesOver: true,
  };
}

/** The one row of each id that files give their own products, for references that name no file which is there. */
function rowsById(drafts: readonly Draft[]): Map<string, Draft | 'several'> {
  const byId = new Map<string, Draft | 'several'>();
  for (const draft of drafts) {
    if (!isModel(draft.product.kind) || draft.product.id === '' || !comesIn(draft)) continue;
    const key = numberKey(draft.product.id);
    byId.set(key, byId.has(key) ? 'several' : draft);
  }
  return byId;
}

function toRow(draft: Draft): IntakeRow {
  return {
    key: draft.key,
    path: draft.file.path,
    product: draft.product,
    number: draft.number,
    name: draft.name,
    ...(draft.carrierKey === undefined ? {} : { carrier: draft.carrierKey }),
    status: draft.status,
    links: draft.links,
    notes: draft.notes,
  };
}
