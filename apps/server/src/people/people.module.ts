import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { AccessController } from './access.controller.js';
import { PeopleController } from './people.controller.js';
import { PeopleService } from './people.service.js';
import { SelfService } from './self.service.js';

/** Who is known, and how they sign in. */
@Module({
  imports: [AccessModule],
  controllers: [PeopleController, AccessController],
  providers: [PeopleService, SelfService],
})
export class PeopleModule {}
