import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { PropertiesModule } from '../properties/properties.module.js';
import { StoreModule } from '../store/store.module.js';
import { BuildModule } from '../build/build.module.js';
import { IssuedModule } from '../issued/issued.module.js';
import { WorkModule } from '../work/work.module.js';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { AppOptions } from '../app-options.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { AskedService } from './asked.service.js';
import { SheetReminders } from './sheet-reminders.js';
import { AlignService } from './align.service.js';
import { LifecycleController } from './lifecycle.controller.js';
import { LifecycleService } from './lifecycle.service.js';
import { ConsequencesService } from './consequences.service.js';
import { LifecyclesService } from './lifecycles.service.js';
import { MoveOnService } from './move-on.service.js';
import { SheetsService } from './sheets.service.js';
import { StepJudgeService } from './step-judge.service.js';
import { StepQuestionsService } from './step-questions.service.js';
import { SignaturesModule } from '../signatures/signatures.module.js';

/** Steps from draft to released and beyond. */
@Module({
  imports: [
    AccessModule,
    BuildModule,
    IssuedModule,
    PropertiesModule,
    SignaturesModule,
    StoreModule,
    WorkModule,
  ],
  controllers: [LifecycleController],
  providers: [
    LifecycleService,
    ConsequencesService,
    StepJudgeService,
    StepQuestionsService,
    LifecyclesService,
    MoveOnService,
    SheetsService,
    AlignService,
    {
      provide: AskedService,
      useFactory: (...needs: ConstructorParameters<typeof AskedService>) => new AskedService(...needs),
      inject: [DataSource, RightsService, SheetsService],
    },
    {
      provide: SheetReminders,
      useFactory: (options: AppOptions, ...needs: [DataSource, RightsService, CatalogueService]) =>
        new SheetReminders(options.worksInBackground === true, ...needs),
      inject: [AppOptions, DataSource, RightsService, CatalogueService],
    },
  ],
  exports: [LifecycleService],
})
export class LifecycleModule {}
