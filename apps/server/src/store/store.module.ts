import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { CatalogueService } from './catalogue.service.js';
import { StoreTurn } from './turn.js';
import { VersionCopier } from './version-copier.js';

/** Finding items and writing them, one writer at a time. */
@Module({
  imports: [AccessModule],
  providers: [StoreTurn, CatalogueService, VersionCopier],
  exports: [StoreTurn, CatalogueService, VersionCopier],
})
export class StoreModule {}
