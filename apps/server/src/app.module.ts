import { Global, Module, type DynamicModule } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AppOptions } from './app-options.js';
import { dataSourceOptions, openDatabase } from './database/data-source.js';
import { ServerSettings } from './server-settings.js';
import { composeInline } from './threads/compose.js';
import { InlineWork } from './work/inline-work.js';
import { AccessModule } from './access/access.module.js';
import { AuditModule } from './audit/audit.module.js';
import { BomModule } from './bom/bom.module.js';
import { ChangesModule } from './changes/changes.module.js';
import { WebhooksModule } from './webhooks/webhooks.module.js';
import { IssuedModule } from './issued/issued.module.js';
import { BuildModule } from './build/build.module.js';
import { CompareModule } from './compare/compare.module.js';
import { LineageModule } from './lineage/lineage.module.js';
import { CustodyModule } from './custody/custody.module.js';
import { DemoModule } from './demo/demo.module.js';
import { DeriveModule } from './derive/derive.module.js';
import { WishModule } from './wish/wish.module.js';
import { FetchModule } from './fetch/fetch.module.js';
import { FilesModule } from './files/files.module.js';
import { FindModule } from './find/find.module.js';
import { IntakeModule } from './intake/intake.module.js';
import { ItemsModule } from './items/items.module.js';
import { LifecycleModule } from './lifecycle/lifecycle.module.js';
import { MeshesModule } from './meshes/meshes.module.js';
import { MarkUpModule } from './mark-up/mark-up.module.js';
import { NoticesModule } from './notices/notices.module.js';
import { PeopleModule } from './people/people.module.js';
import { PlacesModule } from './places/places.module.js';
import { PropertiesModule } from './properties/properties.module.js';
import { QueueModule } from './queue/queue.module.js';
import { RollUpModule } from './roll-up/roll-up.module.js';
import { RunningModule } from './running/running.module.js';
import { ServeModule } from './serve/serve.module.js';
import { SettingsModule } from './settings/settings.module.js';
import { StoreModule } from './store/store.module.js';
import { StructureModule } from './structure/structure.module.js';
import { VerifyModule } from './verify/verify.module.js';
import { WorkModule } from './work/work.module.js';

/** What the server was started with, for every room. */
@Global()
@Module({})
class OptionsModule {
  static with(options: AppOptions): DynamicModule {
    return {
      module: OptionsModule,
      providers: [
        { provide: AppOptions, useValue: options },
        { provide: ServerSettings, useValue: options.settings ?? new ServerSettings() },
        { provide: InlineWork, useValue: new InlineWork(options.worksInline ? composeInline : undefined) },
      ],
      exports: [AppOptions, ServerSettings, InlineWork],
    };
  }
}

/** The server: each capability is a module of its own, which says what it stands on. */
@Module({})
export class AppModule {
  static with(options: AppOptions): DynamicModule {
    return {
      module: AppModule,
      imports: [
        OptionsModule.with(options),
        TypeOrmModule.forRootAsync({
          useFactory: () => dataSourceOptions(options.databaseUrl),
          dataSourceFactory: async () => openDatabase(options.databaseUrl),
        }),
        AccessModule,
        ServeModule,
        QueueModule,
        WorkModule,
        SettingsModule,
        StoreModule,
        StructureModule,
        PropertiesModule,
        RollUpModule,
        MeshesModule,
        FindModule,
        PeopleModule,
        MarkUpModule,
        NoticesModule,
        AuditModule,
        FilesModule,
        BomModule,
        BuildModule,
        IssuedModule,
        WebhooksModule,
        ChangesModule,
        CompareModule,
        LineageModule,
        CustodyModule,
        ItemsModule,
        LifecycleModule,
        PlacesModule,
        FetchModule,
        DeriveModule,
        WishModule,
        IntakeModule,
        VerifyModule,
        RunningModule,
        DemoModule,
      ],
    };
  }
}
