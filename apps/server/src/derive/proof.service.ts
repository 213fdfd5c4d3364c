import { isHiddenNumber } from '../store/names.js';
import { Injectable } from '@nestjs/common';
import {
  known,
  applyTitleBlock,
  isWrong,
  proofRows,
  proveTitleBlocks,
  proveVariant,
  RECORDED,
  saysTheSame,
  sayValue,
  type ExpectedField,
  type FileReading,
  type PlannedFile,
  type Proof,
  type ProofDocument,
  type ProofRow,
  type SaidReference,
  withFindings,
} from '@stem-trace/core';
import { takeCensus, type CensusText } from '@stem-trace/formats';
import pMap from 'p-map';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { flag, json, orNull, readRow, readRows, text } from '../database/read-rows.js';
import { FetchTreeService, type FetchTree } from '../fetch/fetch-tree.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { formatOf } from '../store/facts.js';
import { ReaderThreads } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';
import type { JobProgress } from '../queue/job-progress.js';
import { SettingsService } from '../settings/settings.service.js';
import { loadLinks } from '../structure/structure-loader.js';

/** Files that are asked for at a time: enough for the reading threads, few enough to stop. */
const READ_AT_ONCE = 8;

/** Formats whose text says what the store says when it is handed out. */
const REWRITTEN: ReadonlySet<string> = new Set(['step', 'dxf']);

interface Derivation {
  readonly id: string;
  /** Number of what it was made from. */
  readonly origin: string;
  readonly top: DescribedVersion;
  /** New versions with the versions that they were copied from. */
  readonly copies: readonly { readonly origin: string; readonly made: string }[];
  /** Numbers of what was swapped or left out, wherever it stands otherwise. */
  readonly gone: readonly string[];
}

/** Proves a variant: its files are made as for a fetch, read back, and every reference compared with the store. */
@Injectable()
export class ProofService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: FetchTreeService,
    private readonly blobs: BlobStore,
    private readonly reader: ReaderThreads,
    private readonly rights: RightsService,
    private readonly settings: SettingsService,
  ) {}

  /**
   * Of the derivation that an item came from, as it was made.
   *
   * @throws ProblemError INPUT_INVALID where the item was not derived; NOT_ALLOWED where some of it may not be fetched;
   * JOB_CANCELLED
   */
  async prove(number: string, person: Person, progress: JobProgress): Promise<Proof> {
    const derivation = await this.derivationOf(number, person);
    const { top, copies, gone } = derivation;
    const rights = await this.rights.of(person);
    const { tree, inTree } = await this.treeOf(top, rights);
    const made = new Set(copies.map((copy) => copy.made));
    const { expected, knownGaps, pathOf } = await this.expectations(tree, { inTree, made });
    const origins = await this.catalogue.describe(copies.map(({ origin }) => origin));
    const copiedPaths = new Set([...made].flatMap((id) => pathOf.get(id) ?? []));
    const originNames = new Set(
      [...origins.values()]
        .flatMap((origin) => [origin.number, origin.fileName])
        .filter((name) => name !== ''),
    );
    const { readings, texts } = await this.readBack(tree.plan.files, progress);
    const proof = proveVariant({ readings, expected, copiedPaths, originNames, knownGaps });
    const known = {
      paths: new Set(tree.plan.files.map(({ path }) => path)),
      copied: copiedPaths,
      names: new Set([...inTree.values()].flatMap((version) => [version.number, version.name])),
      gaps: gapTexts(readings, knownGaps),
    };
    const census = takeCensus({ ...known, texts, origin: originNames });
    // Drawings may go on speaking of what the variant does not have; models may not.
    const models = new Map([...texts].filter(([path]) => readings.get(path)?.format === 'step'));
    const { leaking } = takeCensus({ ...known, texts: models, origin: new Set(gone) });
    const titles = proveTitleBlocks(fieldsOf(derivation, { origins, inTree, pathOf }), {
      ...{ readings, texts },
      rules: await this.settings.titleBlock(),
    });
    const references = withFindings(proof, {
      ...census,
      leaking: [...new Set([...census.leaking, ...leaking])],
    });
    const judged = withFindings(references, { dangling: titles.faults, leaking: [] });
    const fixed = tree.plan.files.flatMap(({ path, versionId }) => {
      const version = inTree.get(versionId);
      return version && made.has(versionId) && !REWRITTEN.has(formatOf(version.facts)) ? [path] : [];
    });
    await this.keep(derivation, {
      ...judged,
      variant: top.number,
      origin: derivation.origin,
      at: new Date().toISOString(),
      by: person.name,
      rows: [
        ...titles.rows.filter(isToDo),
        ...proofRows({ readings, knownGaps, expected }, { texts, faults: references.faults, fixed }),
        ...titles.rows.filter((row) => !isToDo(row)),
      ],
    });
    return judged;
  }

  /**
   * The last proof of a variant as a document.
   *
   * @throws ProblemError as `prove`; INPUT_INVALID where it was never proved
   */
  async document(number: string, person: Person): Promise<ProofDocument> {
    const { id, top } = await this.derivationOf(number, person);
    await this.treeOf(top, await this.rights.of(person));
    const { proof } = await readRow(
      this.database,
      { proof: orNull(json<ProofDocument>()) },
      'SELECT proof FROM derivation WHERE id = $1',
      [id],
    );
    if (!proof)
      throw new ProblemError(
        'INPUT_INVALID',
        `${top.number} was not proved yet. Run the proof, then ask again.`,
      );
    const hidden = (await this.rights.of(person)).placesWithout('see');
    // Old references in the rows are names of the origin's files.
    if (await isHiddenNumber(this.database, proof.origin, hidden))
      throw new ProblemError(
        'NOT_ALLOWED',
        `You have no access to the item that ${top.number} was derived from, whose names are in the proof.`,
      );
    return proof;
  }

  private async keep({ id }: Derivation, document: ProofDocument): Promise<void> {
    await this.database.query('UPDATE derivation SET proof = $2 WHERE id = $1', [
      id,
      JSON.stringify(document),
    ]);
  }

  /** All files of a variant, for somebody who may fetch all of them. */
  private async treeOf(
    top: DescribedVersion,
    rights: Rights,
  ): Promise<{ tree: FetchTree; inTree: ReadonlyMap<string, DescribedVersion> }> {
    const tree = await this.trees.collect(top, {
      lens: RECORDED,
      drawings: true,
      mayFetch: () => true,
      maySee: () => true,
    });
    const inTree = new Map([...tree.contents.values()].flat().map((version) => [version.id, version]));
    if ([...inTree.values()].some(({ placeId }) => !rights.may('fetch', placeId)))
      throw new ProblemError(
        'NOT_ALLOWED',
        `${top.number} refers to items that you may not fetch, so that its files cannot be read back for you. Ask somebody who administers their places.`,
      );
    return { tree, inTree };
  }

  private async derivationOf(number: string, person: Person): Promise<Derivation> {
    const item = await this.catalogue.resolve(number, person, 'fetch');
    const rows = await readRows(
      this.database,
      { id: text, itemId: text, origin: text, made: text, isTop: flag },
      `SELECT d.id, i.id AS "itemId", v.origin_version_id AS origin, v.id AS made, v.origin_version_id = d.origin_version_id AS "isTop"
       FROM item asked JOIN derivation d ON d.id = asked.derivation_id JOIN item i ON i.derivation_id = d.id
       JOIN version v ON v.item_id = i.id AND v.origin_version_id IS NOT NULL WHERE asked.id = $1 ORDER BY v.id`,
      [item.itemId],
    );
    const topItem = rows.find(({ isTop }) => isTop)?.itemId;
    // As it was made last: what was carried over since is proved with it.
    const topVersion = rows.filter(({ itemId }) => itemId === topItem).at(-1)?.made ?? '';
    const top = (await this.catalogue.describe(topVersion === '' ? [] : [topVersion])).get(topVersion);
    if (!top)
      throw new ProblemError(
        'INPUT_INVALID',
        `${item.number} was not derived from another item, so that there is nothing to prove.`,
      );
    const lines = await readRows(
      this.database,
      { number: text },
      `SELECT line->>'number' AS number FROM item i JOIN derivation d ON d.id = i.derivation_id,
              jsonb_array_elements(d.plan->'lines') AS line
       WHERE i.id = $1 AND line->>'decision' IN ('swap', 'omit') AND line->'reason'->>'kind' = 'decided'`,
      [top.itemId],
    );
    const topOrigin = rows.find(({ isTop }) => isTop)?.origin ?? '';
    return {
      id: rows[0]?.id ?? '',
      origin: (await this.catalogue.describe([topOrigin])).get(topOrigin)?.number ?? '',
      top,
      copies: rows.map(({ origin, made }) => ({ origin, made })),
      gone: lines.map((line) => line.number),
    };
  }

  /** What a reading, and a search that knows nothing of it, find in the files as they would be fetched, by path. */
  private async readBack(
    files: readonly PlannedFile[],
    progress: JobProgress,
  ): Promise<{ readings: Map<string, FileReading>; texts: Map<string, readonly CensusText[]> }> {
    const rules = await this.settings.titleBlock();
    const readings = new Map<string, FileReading>();
    const texts = new Map<string, readonly CensusText[]>();
    let done = 0;
    await progress.goOn(done, files.length);
    const readOne = async ({ sha256, path, storedFileName, renaming }: PlannedFile): Promise<void> => {
      const outcome = await this.reader.read({
        file: this.blobs.pathOf(sha256),
        path,
        handedOut: { storedFileName, renaming },
      });
      if (outcome.kind !== 'read') throw new Error(`${path} cannot be read back: ${outcome.reason}`);
      readings.set(path, applyTitleBlock(outcome.reading, rules));
      if (outcome.texts) texts.set(path, outcome.texts);
      await progress.goOn(++done, files.length);
    };
    await pMap(files, readOne, { concurrency: READ_AT_ONCE });
    return { readings, texts };
  }

  /** What the store says about the references of the copies. */
  private async expectations(
    tree: FetchTree,
    { inTree, made }: { inTree: ReadonlyMap<string, DescribedVersion>; made: ReadonlySet<string> },
  ): Promise<{
    expected: SaidReference[];
    knownGaps: Set<string>;
    pathOf: ReadonlyMap<string, string>;
  }> {
    const pathOf = new Map(tree.plan.files.map((file) => [file.versionId, file.path]));
    const fileOf = (version: DescribedVersion): string => known(pathOf, version.carrierVersion ?? version.id);
    const links = await loadLinks(
      this.database.manager,
      'l.version_id',
      [...inTree.keys()],
      ['component', 'depicts', 'draws on'],
    );
    const unsaid = await this.unsaidLinks([...inTree.keys()]);
    const files = new Map(tree.plan.files.map((file) => [file.versionId, file]));
    const expected = links.flatMap((link): SaidReference[] => {
      if (unsaid.has(link.id)) return [];
      const parent = inTree.get(link.parentVersion);
      const child = inTree.get(link.targetVersion ?? '');
      if (!parent || !child || !made.has(parent.id)) return [];
      return [
        {
          path: fileOf(parent),
          parentNumber: parent.number,
          childNumber: child.number,
          childPath: fileOf(child),
          quantity: link.quantity,
          kind: made.has(child.id) ? 'copied' : 'shared',
          said: link.locator ?? '',
          says: saysIn(tree, files.get(parent.carrierVersion ?? parent.id), link.locator ?? ''),
        },
      ];
    });
    const knownGaps = links.flatMap((link) => {
      const parent = inTree.get(link.parentVersion);
      return parent && link.targetVersion === undefined
        ? [`${fileOf(parent)}#${link.locator ?? link.targetText}`]
        : [];
    });
    return { expected, knownGaps: new Set(knownGaps), pathOf };
  }

  /** Links that people made or that the names of files tell, so that no file says them. */
  private async unsaidLinks(versions: readonly string[]): Promise<Set<string>> {
    const rows = await readRows(
      this.database,
      { id: text },
      `SELECT id FROM link WHERE version_id = ANY($1::bigint[]) AND relation IN ('depicts', 'describes') AND target_ref = 0`,
      [versions],
    );
    return new Set(rows.map(({ id }) => id));
  }
}

const isToDo = (row: ProofRow): boolean => isWrong(row) || row.kind === 'not rewritten';

/** Properties of copied drawings that are not those of their origins. */
function fieldsOf(
  { copies }: Derivation,
  {
    origins,
    inTree,
    pathOf,
  }: {
    readonly origins: ReadonlyMap<string, DescribedVersion>;
    readonly inTree: ReadonlyMap<string, DescribedVersion>;
    readonly pathOf: ReadonlyMap<string, string>;
  },
): ExpectedField[] {
  return copies.flatMap(({ origin, made }) => {
    const copy = inTree.get(made);
    const path = pathOf.get(made);
    if (!copy || path === undefined || formatOf(copy.facts) !== 'dxf') return [];
    const before = new Map(
      origins.get(origin)?.facts.properties.map((value) => [value.name.toLowerCase(), sayValue(value)]),
    );
    return copy.facts.properties.flatMap((value): ExpectedField[] => {
      const [said, says] = [before.get(value.name.toLowerCase()) ?? '', sayValue(value)];
      return saysTheSame(said, value)
        ? []
        : [{ path, number: copy.number, property: value.name, said, says }];
    });
  });
}

/** What a file says, as it is handed out, where it said something else when it was stored. */
function saysIn(tree: FetchTree, file: PlannedFile | undefined, locator: string): string {
  const reference = tree.references.get(file?.versionId ?? '')?.find((each) => each.locator === locator);
  return reference ? (file?.says.get(reference.ref) ?? locator) : locator;
}

/** Every way in which files say what was a gap already, by path. */
function gapTexts(
  readings: ReadonlyMap<string, FileReading>,
  knownGaps: ReadonlySet<string>,
): Map<string, Set<string>> {
  const gaps = new Map<string, Set<string>>();
  for (const [path, { products }] of readings) {
    const texts = products.flatMap(({ locator, alsoSaid = [], id, name }) =>
      locator !== undefined && knownGaps.has(`${path}#${locator}`) ? [locator, ...alsoSaid, id, name] : [],
    );
    if (texts.length > 0) gaps.set(path, new Set(texts.map((text) => text.trim())));
  }
  return gaps;
}
