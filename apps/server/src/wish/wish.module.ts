import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { RightsService } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { DeriveService } from '../derive/derive.service.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { PropertiesModule } from '../properties/properties.module.js';
import { LifecycleModule } from '../lifecycle/lifecycle.module.js';
import { LifecycleService } from '../lifecycle/lifecycle.service.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { SettingsModule } from '../settings/settings.module.js';
import { SettingsService } from '../settings/settings.service.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { StoreModule } from '../store/store.module.js';
import { StoreTurn } from '../store/turn.js';
import { StructureLoader } from '../structure/structure-loader.js';
import { StructureModule } from '../structure/structure.module.js';
import { WorkHost } from '../work/work-host.js';
import { WorkModule } from '../work/work.module.js';
import { OrdersService } from './orders.service.js';
import { RecipesService } from './recipes.service.js';
import { WishController } from './wish.controller.js';
import { WishesService } from './wishes.service.js';

/** From wishes to variants: recipes, wish sheets, and the jobs that fulfil them. */
@Module({
  imports: [
    SettingsModule,
    AccessModule,
    BlobsModule,
    LifecycleModule,
    PropertiesModule,
    QueueModule,
    StoreModule,
    StructureModule,
    WorkModule,
  ],
  controllers: [WishController],
  providers: [
    {
      provide: RecipesService,
      useFactory: (...needs: ConstructorParameters<typeof RecipesService>) => new RecipesService(...needs),
      inject: [DataSource, StoreTurn, CatalogueService, RightsService, BlobStore, StructureLoader],
    },
    {
      provide: WishesService,
      useFactory: (
        database: DataSource,
        turn: StoreTurn,
        catalogue: CatalogueService,
        loader: StructureLoader,
        rights: RightsService,
        blobs: BlobStore,
        definitions: DefinitionsService,
        settings: SettingsService,
        recipes: RecipesService,
      ) =>
        new WishesService(
          ...([database, catalogue, rights, recipes] as const),
          new DeriveService(database, turn, catalogue, loader, rights, blobs, definitions, settings),
        ),
      inject: [
        ...[DataSource, StoreTurn, CatalogueService, StructureLoader, RightsService, BlobStore],
        ...[DefinitionsService, SettingsService, RecipesService],
      ],
    },
    {
      provide: OrdersService,
      useFactory: (...needs: ConstructorParameters<typeof OrdersService>) => new OrdersService(...needs),
      inject: [
        DataSource,
        CatalogueService,
        RightsService,
        WishesService,
        WorkHost,
        JobQueue,
        LifecycleService,
      ],
    },
  ],
})
export class WishModule {}
