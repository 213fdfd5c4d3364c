import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { RightsService } from '../access/rights.service.js';
import { AppOptions } from '../app-options.js';
import { BlobStore } from '../blobs/blob-store.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { LifecycleModule } from '../lifecycle/lifecycle.module.js';
import { LifecycleService } from '../lifecycle/lifecycle.service.js';
import { NumbersService } from '../properties/numbers.service.js';
import { PropertiesModule } from '../properties/properties.module.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { StoreModule } from '../store/store.module.js';
import { StoreTurn } from '../store/turn.js';
import { StructureIndex } from '../structure/structure-index.js';
import { StructureModule } from '../structure/structure.module.js';
import { WorkModule } from '../work/work.module.js';
import { BoardService } from './board.service.js';
import { ChangeFiles } from './change-contents.js';
import { ChangeMapService } from './change-map.service.js';
import { ChangeViewService } from './change-view.service.js';
import { ChangesController } from './changes.controller.js';
import { ChangesService } from './changes.service.js';
import { MakesService } from './makes.service.js';
import { OldOrdersService } from './old-orders.service.js';
import { RemindersService } from './reminders.service.js';
import { TasksService } from './tasks.service.js';

/** Change requests and change orders, and what is made under them. */
@Module({
  imports: [
    AccessModule,
    BlobsModule,
    LifecycleModule,
    PropertiesModule,
    StoreModule,
    StructureModule,
    WorkModule,
  ],
  controllers: [ChangesController],
  providers: [
    { provide: ChangeFiles, useFactory: (blobs: BlobStore) => new ChangeFiles(blobs), inject: [BlobStore] },
    {
      provide: ChangesService,
      useFactory: (...needs: ConstructorParameters<typeof ChangesService>) => new ChangesService(...needs),
      inject: [
        DataSource,
        StoreTurn,
        CatalogueService,
        RightsService,
        ChangeFiles,
        NumbersService,
        LifecycleService,
      ],
    },
    {
      provide: ChangeViewService,
      useFactory: (...needs: ConstructorParameters<typeof ChangeViewService>) =>
        new ChangeViewService(...needs),
      inject: [DataSource, CatalogueService, RightsService, ChangeFiles],
    },
    {
      provide: BoardService,
      useFactory: (...needs: ConstructorParameters<typeof BoardService>) => new BoardService(...needs),
      inject: [DataSource, CatalogueService, RightsService, StructureIndex],
    },
    {
      provide: MakesService,
      useFactory: (...needs: ConstructorParameters<typeof MakesService>) => new MakesService(...needs),
      inject: [DataSource, CatalogueService, RightsService],
    },
    {
      provide: RemindersService,
      useFactory: (options: AppOptions, database: DataSource) =>
        new RemindersService(options.worksInBackground === true, database),
      inject: [AppOptions, DataSource],
    },
    {
      provide: OldOrdersService,
      useFactory: (options: AppOptions, database: DataSource, files: ChangeFiles) =>
        new OldOrdersService(options.worksInBackground === true, database, files),
      inject: [AppOptions, DataSource, ChangeFiles],
    },
    {
      provide: TasksService,
      useFactory: (...needs: ConstructorParameters<typeof TasksService>) => new TasksService(...needs),
      inject: [DataSource, CatalogueService, RightsService],
    },
    {
      provide: ChangeMapService,
      useFactory: (...needs: ConstructorParameters<typeof ChangeMapService>) =>
        new ChangeMapService(...needs),
      inject: [DataSource, CatalogueService, RightsService],
    },
  ],
  exports: [ChangesService],
})
export class ChangesModule {}
