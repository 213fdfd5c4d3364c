/** The services of a work thread, made by hand: it needs few of them, and none that listens or works by itself. */
import { RightsService } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import { AlternatesService } from '../bom/alternates.service.js';
import { BillFileService } from '../bom/bill-file.service.js';
import { BillService } from '../bom/bill.service.js';
import { BomTreeService } from '../bom/bom-tree.service.js';
import { BillContents } from '../build/bill-contents.js';
import { BillsService } from '../build/bills.service.js';
import { CarryService } from '../build/carry.service.js';
import { EngineeringService } from '../build/engineering.service.js';
import { ReadinessService } from '../build/readiness.service.js';
import { FindsService } from '../bom/finds.service.js';
import { ListTreeService } from '../bom/list-tree.service.js';
import { ChangeFiles } from '../changes/change-contents.js';
import { ChangeViewService } from '../changes/change-view.service.js';
import { RedlineService } from '../changes/redline.service.js';
import { CompareFileService } from '../compare/compare-file.service.js';
import { CompareService } from '../compare/compare.service.js';
import { WholesService } from '../compare/wholes.service.js';
import { connect, dataSourceOptions } from '../database/data-source.js';
import type { Person } from '../database/entities/person.js';
import { BeginService } from '../derive/begin.service.js';
import { DeriveService } from '../derive/derive.service.js';
import { proofFile } from '../derive/proof-file.js';
import { ProofService } from '../derive/proof.service.js';
import { NoMarks } from '../feed/freshness.js';
import { FetchTreeService } from '../fetch/fetch-tree.js';
import { JoinService } from '../fetch/join.service.js';
import { SplitService } from '../fetch/split.service.js';
import { IssuedMaker } from '../issuing/issued-maker.js';
import { RecordService } from '../lifecycle/record.service.js';
import { SignaturesService } from '../signatures/signatures.service.js';
import { SigningKey } from '../signatures/signing-key.js';
import { SheetsService } from '../lifecycle/sheets.service.js';
import { IntakeCarrier } from '../intake/intake-carrier.js';
import { IntakePlanner } from '../intake/intake-planner.js';
import { IntakeReview } from '../intake/intake-review.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { ReaderThreads } from '../jobs/reader-pool.js';
import { LineageService } from '../lineage/lineage.service.js';
import { MarkUpService } from '../mark-up/mark-up.service.js';
import { PrintService } from '../mark-up/print.service.js';
import { MeshFacts } from '../meshes/mesh-facts.js';
import { NearService } from '../meshes/near.service.js';
import { SceneService } from '../meshes/scene.service.js';
import { TraitsService } from '../meshes/traits.service.js';
import { problemOf } from '../problems/to-problem.js';
import { JobProgress } from '../queue/job-progress.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { SettingsService } from '../settings/settings.service.js';
import { StoreTurn } from '../store/turn.js';
import { ConfigurationsService } from '../structure/configurations.service.js';
import { EffectService } from '../structure/effect.service.js';
import { NetService } from '../structure/net.service.js';
import { StructureIndex } from '../structure/structure-index.js';
import { StructureLoader } from '../structure/structure-loader.js';
import { StructureService } from '../structure/structure.service.js';
import { RecipesService } from '../wish/recipes.service.js';
import { WishesService } from '../wish/wishes.service.js';
import { RemoteIndex } from '../work/remote-index.js';
import type { WorkAnswer, WorkInput, WorkKind } from '../work/tasks.js';
import type { InlineThread, WorkDone, WorkOptions, WorkOrder } from '../work/work-host.js';

export type TaskTable = {
  readonly [K in WorkKind]: (input: WorkInput<K>, person: Person) => Promise<WorkAnswer<K>>;
};

export interface ComposedWork {
  readonly tasks: TaskTable;
  readonly remote: RemoteIndex;
  readonly close: () => Promise<void>;
}

/** Does one order. @returns the answer as JSON, or why there is none */
export async function doWork(
  composed: () => Promise<ComposedWork>,
  { kind, input, person, index }: WorkOrder,
): Promise<WorkDone> {
  let remote: RemoteIndex | undefined;
  try {
    // An error that leaves the thread keeps nothing but its words, so that this one is understood here, too.
    const { tasks, remote: own } = await composed();
    remote = own;
    remote.use(index);
    // The table of tasks says which input belongs to which kind; a message has lost that.
    const task = tasks[kind] as (input: unknown, person: Person) => Promise<unknown>;
    return new TextEncoder().encode(JSON.stringify((await task(input, person)) ?? null));
  } catch (error) {
    const problem = problemOf(error);
    if (!problem) throw error;
    // Whoever asked is told in words; what it was stays with the server.
    if (problem.status >= 500) process.stderr.write(`work: ${String(error)}\n`);
    const { code, message: detail, details, at } = problem;
    return { problem: { code, detail, ...(details ? { details } : {}), ...(at ? { at } : {}) } };
  } finally {
    remote?.release();
  }
}

/** Of all servers that work in this thread: threads take longer to start than most proofs. They end when idle. */
const INLINE_READERS = new ReaderThreads();

/** The same in this thread; see `InlineThread`. */
export function composeInline(options: WorkOptions): InlineThread {
  return async () => {
    const composed = await composeWork(options, INLINE_READERS);
    return { work: (order) => doWork(() => Promise.resolve(composed), order), close: composed.close };
  };
}

/** A transaction, and the one statement that says how far it is. */
const CONNECTIONS = 3;

/** @param sharedReaders of somebody who ends them; absent for threads of its own */
export async function composeWork(
  { databaseUrl, blobFolder, isOwner = false }: WorkOptions,
  sharedReaders?: ReaderThreads,
): Promise<ComposedWork> {
  const database = await connect(dataSourceOptions(databaseUrl, { poolSize: CONNECTIONS, isOwner }));
  const rights = new RightsService(database, new NoMarks());
  const catalogue = new CatalogueService(database, rights);
  const loader = new StructureLoader(database);
  const remote = new RemoteIndex();
  const index = new StructureIndex(remote, loader, database);
  const settings = new SettingsService(database);
  const turn = new StoreTurn(database);
  const planner = new IntakePlanner(rights, settings);
  const structure = new StructureService(catalogue, loader, rights, index, database);
  const nets = new NetService(catalogue, index, rights, database);
  const effects = new EffectService(catalogue, index, rights, database);
  const configurations = new ConfigurationsService(catalogue, index, rights, database);
  const blobs = new BlobStore(blobFolder);
  const contents = new BillContents(blobs);
  const boms = new BomTreeService(database, catalogue, loader, contents);
  const engineering = new EngineeringService(catalogue, boms, rights);
  const builds = new BillsService(database, turn, catalogue, rights, contents, engineering);
  const carries = new CarryService(catalogue, rights, contents, builds, engineering);
  const readiness = new ReadinessService(
    database,
    catalogue,
    rights,
    settings,
    contents,
    builds,
    engineering,
  );
  const alternates = new AlternatesService(database, catalogue);
  const bills = new BillService(catalogue, boms, rights, alternates);
  const finds = new FindsService(database, catalogue, rights, blobs);
  const billFiles = new BillFileService(catalogue, boms, rights, alternates, bills);
  const comparisons = new CompareService(
    database,
    catalogue,
    boms,
    rights,
    new WholesService(database),
    new ListTreeService(database),
  );
  const lineage = new LineageService(database, catalogue, boms, rights);
  const prints = new PrintService(database, catalogue, blobs, rights, new MarkUpService(database, catalogue));
  const redlines = new RedlineService(
    new ChangeViewService(database, catalogue, rights, new ChangeFiles(blobs)),
    comparisons,
    prints,
  );
  const records = new RecordService(
    database,
    catalogue,
    rights,
    new SheetsService(database, rights, catalogue, new SignaturesService(new SigningKey(blobFolder))),
  );
  const compareFiles = new CompareFileService(comparisons);
  const scenes = new SceneService(catalogue, loader, rights, new MeshFacts(blobFolder));
  const nears = new NearService(scenes, blobs, database);
  const traits = new TraitsService(database, catalogue, loader, rights, scenes);
  const derivations = new DeriveService(
    database,
    turn,
    catalogue,
    loader,
    rights,
    blobs,
    new DefinitionsService(database),
    settings,
  );
  const readers = sharedReaders ?? new ReaderThreads();
  const trees = new FetchTreeService(database, catalogue, loader, settings);
  const proofs = new ProofService(database, catalogue, trees, blobs, readers, rights, settings);
  const recipes = new RecipesService(database, turn, catalogue, rights, blobs, loader);
  const beginnings = new BeginService(database, catalogue, derivations);
  const wishes = new WishesService(database, catalogue, rights, recipes, derivations);
  const joiner = new JoinService(database, catalogue, trees, blobs, rights);
  const issuedMaker = new IssuedMaker(database, catalogue, blobs, {
    ...{ prints, joiner, boms: billFiles, scenes, bills: contents },
  });
  const splitter = new SplitService(catalogue, trees, blobs, rights);
  const reviews = new IntakeReview(database, planner);
  const carrier = new IntakeCarrier(database, turn, planner);
  return {
    remote,
    close: async () => {
      if (!sharedReaders) await readers.close();
      await database.destroy();
    },
    tasks: {
      made: (input, person) => structure.made(input, person),
      used: (input, person) => structure.used(input, person),
      net: (input, person) => nets.net(input, person),
      effect: (input, person) => effects.effect(input, person),
      configurations: ({ item }, person) => configurations.of(item, person),
      bill: (input, person) => bills.bill(input, person),
      'bill finds': (input, person) => finds.proposal(input, person),
      'bill file': (input, person) => billFiles.file(input, person),
      build: ({ bill }, person) => builds.open(bill, person),
      'build new': ({ at, ...request }, person) => builds.create(request, person, at),
      'build save': ({ at, ...request }, person) => builds.save(request, person, at),
      'build carry': ({ bill }, person) => carries.preview(bill, person),
      'build carry out': ({ at, ...request }, person) => carries.carryOut(request, person, at),
      'build check': ({ bill }, person) => readiness.check(bill, person),
      compare: (input, person) => comparisons.compare(input, person),
      'compare file': (input, person) => compareFiles.file(input, person),
      'compare three': (input, person) => comparisons.three(input, person),
      redline: ({ change }, person) => redlines.of(change, person),
      issue: async ({ file }, person) => {
        await issuedMaker.make(file, person);
        return null;
      },
      'record of item': ({ item }, person) => records.item(item, person),
      'record of sheet': ({ id }, person) => records.sheet(id, person),
      'redline file': (input, person) => redlines.file(input, person),
      stem: (input, person) => lineage.stem(input, person),
      family: (input, person) => lineage.family(input, person),
      scene: (input, person) => scenes.sceneOf(input, person),
      near: (input, person) => nears.near(input, person),
      overlaps: ({ question, job }, person) =>
        nears.overlaps(question, person, new JobProgress(database, job)),
      traits: (input, person) => traits.traits(input, person),
      'derive preview': (input, person) => derivations.preview(input, person),
      'derive ground': (input, person) => derivations.ground(input, person),
      begin: ({ at, ...request }, person) => beginnings.begin(request, person, at),
      'derive proposal': (input, person) => derivations.propose(input, person),
      recipe: ({ item }, person) => recipes.open(item, person),
      'recipe check': ({ recipe }, person) => recipes.check(recipe, person),
      'recipe new': ({ at, ...request }, person) => recipes.create(request, person, at),
      'recipe save': ({ at, ...request }, person) => recipes.save(request, person, at),
      'wish plan': (request, person) => wishes.plan(request, person),
      wish: ({ sheet, at }, person) => wishes.carryOut(sheet, person, at),
      'carry over': ({ item }, person) => derivations.carryOvers.plan(item, person),
      'carry over out': ({ at, ...request }, person) => derivations.carryOvers.carryOut(request, person, at),
      'proof document': ({ item }, person) => proofs.document(item, person),
      'proof file': async ({ item, format }, person) =>
        proofFile(await proofs.document(item, person), format),
      'fetch split': ({ item }, person) => splitter.split(item, person),
      'fetch joined': (input, person) => joiner.join(input, person),
      print: (request, person) => prints.print(request, person),
      proof: ({ item, job }, person) => proofs.prove(item, person, new JobProgress(database, job)),
      'intake view': ({ id }, person) => reviews.view(id, person),
      derive: ({ at, ...request }, person) => derivations.carryOutAt(request, person, at),
      'intake carry out': ({ id, ...order }, person) => carrier.carryOut(id, person, order),
    },
  };
}
