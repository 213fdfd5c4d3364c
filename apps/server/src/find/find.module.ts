import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { FeedModule } from '../feed/feed.module.js';
import { MeshesModule } from '../meshes/meshes.module.js';
import { PropertiesModule } from '../properties/properties.module.js';
import { StoreModule } from '../store/store.module.js';
import { StructureModule } from '../structure/structure.module.js';
import { FindCountsService } from './counts.service.js';
import { FindController } from './find.controller.js';
import { FindService } from './find.service.js';
import { LikePropertiesService } from './like-properties.service.js';
import { Matching } from './matching.js';
import { SavedController } from './saved.controller.js';
import { SavedService } from './saved.service.js';
import { FindTableService } from './table.service.js';
import { FindWordsService } from './words.service.js';

/** Searching, counting and keeping searches. */
@Module({
  imports: [AccessModule, FeedModule, MeshesModule, PropertiesModule, StoreModule, StructureModule],
  controllers: [FindController, SavedController],
  providers: [
    FindService,
    FindWordsService,
    FindCountsService,
    FindTableService,
    LikePropertiesService,
    Matching,
    SavedService,
  ],
})
export class FindModule {}
