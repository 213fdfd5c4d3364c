import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { FeedModule } from '../feed/feed.module.js';
import { StoreModule } from '../store/store.module.js';
import { StructureModule } from '../structure/structure.module.js';
import { WorkModule } from '../work/work.module.js';
import { AlternatesService } from './alternates.service.js';
import { BillEditService } from './bill-edit.service.js';
import { BomController } from './bom.controller.js';
import { ColumnSetsService } from './column-sets.service.js';
import { EffectivityService } from './effectivity.service.js';
import { ListTreeService } from './list-tree.service.js';
import { ListsService } from './lists.service.js';

/** Bills of materials of what is in the store. */
@Module({
  imports: [AccessModule, BlobsModule, FeedModule, StoreModule, StructureModule, WorkModule],
  controllers: [BomController],
  providers: [
    AlternatesService,
    BillEditService,
    ColumnSetsService,
    EffectivityService,
    ListTreeService,
    ListsService,
  ],
})
export class BomModule {}
