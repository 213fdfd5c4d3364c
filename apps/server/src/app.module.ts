import { DataSource } from 'typeorm';
import { Module, type DynamicModule } from '@nestjs/common';
import { APP_FILTER, APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AccessController } from './people/access.controller.js';
import { AccessGuard } from './serve/access.guard.js';
import { AccessService } from './access/access.service.js';
import { SignInLimits } from './access/sign-in-limits.js';
import { ApiDocsController } from './running/api-docs.controller.js';
import { HealthController } from './running/health.controller.js';
import { OpenFeeds } from './notices/open-feeds.js';
import { Freshness, Marks } from './feed/freshness.js';
import { ServerSettings } from './server-settings.js';
import { AuditController } from './audit/audit.controller.js';
import { AuditService } from './audit/audit.service.js';
import { Sweeper } from './blobs/sweeper.js';
import { BlobStore } from './blobs/blob-store.js';
import { CompareController } from './compare/compare.controller.js';
import { dataSourceOptions, openDatabase } from './database/data-source.js';
import type { StoreDataSource } from './database/store-data-source.js';
import { DemoPeople } from './demo/demo-people.js';
import { WelcomeController } from './demo/welcome.controller.js';
import { CustodyController } from './custody/custody.controller.js';
import { CustodyService } from './custody/custody.service.js';
import { VersionCopier } from './store/version-copier.js';
import { DeriveController } from './derive/derive.controller.js';
import { Feed } from './feed/feed.js';
import { FeedController } from './notices/feed.controller.js';
import { FetchController } from './fetch/fetch.controller.js';
import { FetchService } from './fetch/fetch.service.js';
import { FetchTreeService } from './fetch/fetch-tree.js';
import { IntakeController } from './intake/intake.controller.js';
import { IntakeService } from './intake/intake.service.js';
import { CatalogueService } from './store/catalogue.service.js';
import { ItemsController } from './items/items.controller.js';
import { HandOutPool } from './jobs/hand-out-pool.js';
import { Pauses } from './jobs/pauses.js';
import { TessellatePool } from './jobs/tessellate-pool.js';
import { ReaderPool } from './jobs/reader-pool.js';
import { LifecycleController } from './lifecycle/lifecycle.controller.js';
import { LifecycleService } from './lifecycle/lifecycle.service.js';
import { NoticesController } from './notices/notices.controller.js';
import { NoticesService } from './notices/notices.service.js';
import { ProblemFilter } from './problems/problem.filter.js';
import { StructureController } from './structure/structure.controller.js';
import { StoreTurn } from './store/turn.js';
import { StructureLoader } from './structure/structure-loader.js';
import { StructureService } from './structure/structure.service.js';

import { MeshesController } from './meshes/meshes.controller.js';
import { ShapesService } from './meshes/shapes.service.js';
import { MeshesService } from './meshes/meshes.service.js';
import { FilesController } from './files/files.controller.js';
import { FilesService } from './files/files.service.js';
import { DefinitionsService } from './properties/definitions.service.js';
import { NumbersService } from './properties/numbers.service.js';
import { PropertiesController } from './properties/properties.controller.js';
import { PropertiesService } from './properties/properties.service.js';
import { AlignService } from './lifecycle/align.service.js';
import { SettingsController } from './settings/settings.controller.js';
import { SettingsService } from './settings/settings.service.js';
import { EffectService } from './structure/effect.service.js';
import { AnswersInMemory } from './serve/answers-in-memory.js';
import { SendBytes } from './serve/send-bytes.js';
import { WorkHost } from './work/work-host.js';
import { IndexSource } from './work/index-source.js';
import { StructureIndex } from './structure/structure-index.js';
import { composeInline } from './threads/compose.js';
import { LinkIndexHost } from './structure/link-index-host.js';
import { PeopleController } from './people/people.controller.js';
import { PeopleService } from './people/people.service.js';
import { BinService } from './places/bin.service.js';
import { PlaceAccessService } from './places/place-access.service.js';
import { FileReader } from './intake/file-reader.js';
import { IntakeRunner } from './intake/intake-runner.js';
import { Unpacker } from './intake/unpacker.js';
import { RightsService } from './access/rights.service.js';
import { FindService } from './find/find.service.js';
import { FindController } from './find/find.controller.js';
import { FindWordsService } from './find/words.service.js';
import { FindCountsService } from './find/counts.service.js';
import { LikePropertiesService } from './find/like-properties.service.js';
import { FindTableService } from './find/table.service.js';
import { Matching } from './find/matching.js';
import { SavedController } from './find/saved.controller.js';
import { SavedService } from './find/saved.service.js';
import { BelongingService } from './items/belonging.service.js';
import { ItemViewService } from './items/item-view.service.js';
import { PlacesController } from './places/places.controller.js';
import { PlacesService } from './places/places.service.js';
import { VerifyController } from './verify/verify.controller.js';
import { VerifyService } from './verify/verify.service.js';

export interface AppOptions {
  readonly databaseUrl: string;
  /** Folder of the blobs. */
  readonly blobFolder: string;
  /** Folder of the demo data, whose people are then offered at sign-in. */
  readonly demoFolder?: string;
  /** Whether shapes are worked out without being asked for. */
  readonly worksOutShapes?: boolean;
  readonly settings?: ServerSettings;
  /** Of somebody who has them for several servers, and ends them. */
  readonly pools?: { readonly readers: ReaderPool; readonly tessellators: TessellatePool };
  /** See `WorkOptions`. */
  readonly worksInline?: boolean;
}

@Module({})
export class AppModule {
  static with({
    databaseUrl,
    blobFolder,
    demoFolder,
    worksOutShapes = false,
    settings = new ServerSettings(),
    pools,
    worksInline = false,
  }: AppOptions): DynamicModule {
    return {
      module: AppModule,
      imports: [
        TypeOrmModule.forRootAsync({
          useFactory: () => dataSourceOptions(databaseUrl),
          dataSourceFactory: async () => openDatabase(databaseUrl),
        }),
      ],
      controllers: [
        AccessController,
        ItemsController,
        FindController,
        SavedController,
        StructureController,
        CompareController,
        IntakeController,
        DeriveController,
        FetchController,
        WelcomeController,
        CustodyController,
        LifecycleController,
        NoticesController,
        FeedController,
        VerifyController,
        PlacesController,
        MeshesController,
        AuditController,
        FilesController,
        PeopleController,
        PropertiesController,
        SettingsController,
        HealthController,
        ApiDocsController,
      ],
      providers: [
        {
          provide: DemoPeople,
          useFactory: (database: DataSource) => new DemoPeople(demoFolder, database),
          inject: [DataSource],
        },
        { provide: BlobStore, useFactory: () => new BlobStore(blobFolder) },
        Sweeper,
        { provide: ReaderPool, useFactory: () => pools?.readers ?? new ReaderPool() },
        { provide: APP_GUARD, useClass: AccessGuard },
        { provide: APP_FILTER, useClass: ProblemFilter },
        { provide: ServerSettings, useValue: settings },
        {
          provide: Freshness,
          useFactory: (database: DataSource) => new Freshness(databaseUrl, database),
          inject: [DataSource],
        },
        { provide: Marks, useExisting: Freshness },
        {
          provide: WorkHost,
          useFactory: (database: StoreDataSource, index: LinkIndexHost, freshness: Freshness) => {
            const options = { databaseUrl, blobFolder, isOwner: database.isOwner, isWarm: worksOutShapes };
            return new WorkHost(options, index, freshness, worksInline ? composeInline(options) : undefined);
          },
          inject: [DataSource, LinkIndexHost, Freshness],
        },
        { provide: APP_INTERCEPTOR, useClass: SendBytes },
        AnswersInMemory,
        { provide: APP_INTERCEPTOR, useExisting: AnswersInMemory },
        { provide: IndexSource, useExisting: LinkIndexHost },
        SignInLimits,
        OpenFeeds,
        AccessService,
        CatalogueService,
        RightsService,
        PeopleService,
        DefinitionsService,
        AlignService,
        SettingsService,
        PropertiesService,
        NumbersService,
        PlaceAccessService,
        BinService,
        FindService,
        FindWordsService,
        FindCountsService,
        FindTableService,
        LikePropertiesService,
        Matching,
        SavedService,
        ItemViewService,
        BelongingService,
        AuditService,
        FilesService,
        StructureLoader,
        StructureIndex,
        EffectService,
        {
          provide: LinkIndexHost,
          useFactory: (database: DataSource) => new LinkIndexHost(databaseUrl, database),
          inject: [DataSource],
        },
        StructureService,
        FileReader,
        IntakeRunner,
        Unpacker,
        IntakeService,
        FetchTreeService,
        FetchService,
        { provide: HandOutPool, useFactory: () => new HandOutPool() },
        CustodyService,
        VersionCopier,
        StoreTurn,
        LifecycleService,
        NoticesService,
        VerifyService,
        PlacesService,
        MeshesService,
        {
          provide: ShapesService,
          useFactory: (
            database: DataSource,
            blobs: BlobStore,
            pool: TessellatePool,
            catalogue: CatalogueService,
            rights: RightsService,
            feed: Feed,
            pauses: Pauses,
          ) => new ShapesService(worksOutShapes, database, blobs, pool, catalogue, rights, feed, pauses),
          inject: [DataSource, BlobStore, TessellatePool, CatalogueService, RightsService, Feed, Pauses],
        },
        { provide: Pauses, useFactory: () => new Pauses() },
        { provide: TessellatePool, useFactory: () => pools?.tessellators ?? new TessellatePool() },
        { provide: Feed, useFactory: () => new Feed(databaseUrl) },
      ],
    };
  }
}
