import { DataSource } from 'typeorm';
import { Module, type DynamicModule } from '@nestjs/common';
import { APP_FILTER, APP_GUARD } from '@nestjs/core';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AccessController } from './access/access.controller.js';
import { AccessGuard } from './access/access.guard.js';
import { AccessService } from './access/access.service.js';
import { AuditController } from './audit/audit.controller.js';
import { AuditService } from './audit/audit.service.js';
import { BlobStore } from './blobs/blob-store.js';
import { CompareController } from './compare/compare.controller.js';
import { CompareService } from './compare/compare.service.js';
import { dataSourceOptions } from './database/data-source.js';
import { DemoPeople } from './demo/demo-people.js';
import { WelcomeController } from './demo/welcome.controller.js';
import { CustodyController } from './custody/custody.controller.js';
import { CustodyService } from './custody/custody.service.js';
import { VersionCopier } from './custody/version-copier.js';
import { DeriveController } from './derive/derive.controller.js';
import { DeriveService } from './derive/derive.service.js';
import { ProofService } from './derive/proof.service.js';
import { Feed } from './feed/feed.js';
import { FeedController } from './feed/feed.controller.js';
import { FetchController } from './fetch/fetch.controller.js';
import { FetchService } from './fetch/fetch.service.js';
import { FetchTreeService } from './fetch/fetch-tree.js';
import { IntakeController } from './intake/intake.controller.js';
import { IntakeService } from './intake/intake.service.js';
import { CatalogueService } from './items/catalogue.service.js';
import { ItemsController } from './items/items.controller.js';
import { Pauses } from './jobs/pauses.js';
import { TessellatePool } from './jobs/tessellate-pool.js';
import { ReaderPool } from './jobs/reader-pool.js';
import { LifecycleController } from './lifecycle/lifecycle.controller.js';
import { LifecycleService } from './lifecycle/lifecycle.service.js';
import { NoticesController } from './notices/notices.controller.js';
import { NoticesService } from './notices/notices.service.js';
import { ProblemFilter } from './problems/problem.filter.js';
import { StructureController } from './structure/structure.controller.js';
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
import { ConfigurationsService } from './structure/configurations.service.js';
import { EffectService } from './structure/effect.service.js';
import { NetService } from './structure/net.service.js';
import { StructureIndex } from './structure/structure-index.js';
import { LinkIndexHost } from './structure/link-index-host.js';
import { PeopleController } from './people/people.controller.js';
import { PeopleService } from './people/people.service.js';
import { BinService } from './places/bin.service.js';
import { PlaceAccessService } from './places/place-access.service.js';
import { FileReader } from './intake/file-reader.js';
import { IntakePlanner } from './intake/intake-planner.js';
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
}

@Module({})
export class AppModule {
  static with({ databaseUrl, blobFolder, demoFolder, worksOutShapes = false }: AppOptions): DynamicModule {
    return {
      module: AppModule,
      imports: [TypeOrmModule.forRoot(dataSourceOptions(databaseUrl))],
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
      ],
      providers: [
        { provide: DemoPeople, useFactory: () => new DemoPeople(demoFolder) },
        { provide: BlobStore, useFactory: () => new BlobStore(blobFolder) },
        { provide: ReaderPool, useFactory: () => new ReaderPool() },
        { provide: APP_GUARD, useClass: AccessGuard },
        { provide: APP_FILTER, useClass: ProblemFilter },
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
        NetService,
        EffectService,
        ConfigurationsService,
        {
          provide: LinkIndexHost,
          useFactory: (database: DataSource) => new LinkIndexHost(databaseUrl, database),
          inject: [DataSource],
        },
        StructureService,
        CompareService,
        FileReader,
        IntakePlanner,
        IntakeRunner,
        Unpacker,
        IntakeService,
        FetchTreeService,
        FetchService,
        DeriveService,
        ProofService,
        CustodyService,
        VersionCopier,
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
        { provide: TessellatePool, useFactory: () => new TessellatePool() },
        { provide: Feed, useFactory: () => new Feed(databaseUrl) },
      ],
    };
  }
}
