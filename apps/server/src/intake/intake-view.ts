/** What an intake sheet looks like to those who review it. Pure functions over the plan. */
import type { FetchManifest, IntakeReference, IntakeResult, IntakeRowView } from '@stem-trace/contract';
import {
  isGuess,
  missingFrom,
  sayValue,
  type IntakeFile,
  type IntakePlan,
  type IntakeRow,
  type LinkTarget,
  type WorkingCopy,
} from '@stem-trace/core';
import type { Intake } from '../database/entities/intake.js';
import type { IntakeWritten } from './intake-writer.js';

const STATUS_TEXT: Readonly<Record<IntakeRow['status']['kind'], IntakeRowView['status']>> = {
  new: 'new',
  newVersion: 'new version',
  unchanged: 'unchanged',
  leftOut: 'left out',
  sameAs: 'same file',
  problem: 'problem',
  refused: 'refused',
};

/** Properties of a file that are told before it comes in; all are kept. */
const MOST_TOLD = 30;

export function rowViews(
  plan: IntakePlan,
  files: readonly IntakeFile[],
  manifest: FetchManifest | null,
): IntakeRowView[] {
  const formats = new Map(files.map(({ path, reading }) => [path, reading?.format ?? null]));
  const numbers = new Map(plan.rows.map((row) => [row.key, row.number]));
  const fetched = manifest ? workingCopyOf(manifest).files : new Map<string, never>();
  return plan.rows.map((row) => ({
    ...rowView(row, numbers, fetched),
    format: formats.get(row.path) ?? null,
  }));
}

function rowView(
  row: IntakeRow,
  numbers: ReadonlyMap<string, string>,
  fetched: WorkingCopy['files'],
): Omit<IntakeRowView, 'format'> {
  const { status } = row;
  const gaps = row.links.filter((link) => link.target.kind === 'gap').length;
  return {
    key: row.key,
    path: row.path,
    number: row.number,
    name: row.name,
    kind: row.product.kind,
    carrier: numbers.get(row.carrier ?? '') ?? null,
    status: STATUS_TEXT[status.kind],
    canOverwrite: status.kind === 'refused' && status.canOverwrite,
    takesOver: 'takesOver' in status && status.takesOver === true,
    existing: 'of' in status ? status.of.newest.label : null,
    madeFrom: fetched.get(row.path)?.items.find(({ number }) => number === row.number)?.version ?? null,
    belongsTo: belongsTo(row, numbers),
    references: { resolved: row.links.length - gaps, gaps },
    doubtful: row.links.flatMap((link): IntakeReference[] => {
      const { locator } = link.product;
      const isSure =
        link.target.kind !== 'gap' && link.by !== 'hand' && (link.by === undefined || !isGuess(link.by));
      if (locator === undefined || link.carried || isSure) return [];
      return [{ locator, number: targetNumber(link.target, numbers), by: link.by ?? null }];
    }),
    notes: [...('reason' in status ? [status.reason] : []), ...row.notes],
    properties: row.product.properties
      .slice(0, MOST_TOLD)
      .map((property) => ({ name: property.name, shown: sayValue(property) })),
  };
}

function belongsTo(row: IntakeRow, numbers: ReadonlyMap<string, string>): string | null {
  const link = row.links.find(({ relation }) => relation === 'depicts' || relation === 'describes');
  return link ? targetNumber(link.target, numbers) : null;
}

function targetNumber(target: LinkTarget, numbers: ReadonlyMap<string, string>): string | null {
  if (target.kind === 'row') return numbers.get(target.key) ?? null;
  return target.kind === 'item' && target.item.isVisible ? target.item.number : null;
}

/** What carrying out a plan would write. */
export function expectedCounts(plan: IntakePlan): IntakeWritten {
  const writing = plan.rows.filter((row) => row.status.kind === 'new' || row.status.kind === 'newVersion');
  return {
    items: writing.filter((row) => row.status.kind === 'new').length,
    versions: writing.length,
    links: writing.reduce((sum, row) => sum + row.links.length, 0),
    filled: 0,
    rowsLeft: [],
    gaps: plan.gaps,
  };
}

export function resultOf(
  { manifest }: Pick<Intake, 'manifest'>,
  { files, plan, written }: { files: readonly IntakeFile[]; plan: IntakePlan; written: IntakeWritten },
): IntakeResult {
  return {
    files: files.filter((file) => file.passedOver === undefined).length,
    ...written,
    problems: plan.problems,
    passedOver: plan.passedOver,
    refused: plan.rows.flatMap(({ path, number, status }) =>
      status.kind === 'refused' ? [{ file: path, number, reason: status.reason }] : [],
    ),
    missing: manifest
      ? missingFrom(
          workingCopyOf(manifest),
          files.map(({ path }) => path),
        )
      : [],
  };
}

export function workingCopyOf(manifest: FetchManifest): WorkingCopy {
  return {
    files: new Map(
      manifest.files.map(({ path, sha256, items, references = [] }) => [path, { sha256, items, references }]),
    ),
  };
}

export const NOTHING: IntakeResult = {
  files: 0,
  items: 0,
  versions: 0,
  links: 0,
  filled: 0,
  gaps: [],
  rowsLeft: [],
  problems: [],
  passedOver: [],
  refused: [],
  missing: [],
};
