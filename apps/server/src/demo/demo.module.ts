import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppOptions } from '../app-options.js';
import { DemoPeople } from './demo-people.js';
import { WelcomeController } from './welcome.controller.js';

/** The demo organisation. */
@Module({
  controllers: [WelcomeController],
  providers: [
    {
      provide: DemoPeople,
      useFactory: ({ demoFolder }: AppOptions, database: DataSource) => new DemoPeople(demoFolder, database),
      inject: [AppOptions, DataSource],
    },
  ],
})
export class DemoModule {}
