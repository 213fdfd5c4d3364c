import { Controller, StreamableFile } from '@nestjs/common';
import type {
  FindAnswer,
  FindCounts,
  FindLens,
  FindRanges,
  LikePropertiesAnswer,
} from '@stem-trace/contract';
import type { QueryWords } from '@stem-trace/core';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { FindCountsService, type RangesRequest } from './counts.service.js';
import { FindService, type FindRequest } from './find.service.js';
import { LikePropertiesService } from './like-properties.service.js';
import { FindTableService, type TableRequest } from './table.service.js';
import { FindWordsService } from './words.service.js';
import { Input, Serve } from '../serve/serve.js';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;

@Controller()
export class FindController {
  constructor(
    private readonly finder: FindService,
    private readonly words: FindWordsService,
    private readonly counter: FindCountsService,
    private readonly tables: FindTableService,
    private readonly alike: LikePropertiesService,
  ) {}

  @Serve('GET /api/items')
  find(@Input() request: FindRequest, @Caller() person: Person): Promise<FindAnswer> {
    return this.finder.find(request, person);
  }

  @Serve('GET /api/find/words')
  known(@Caller() person: Person): Promise<QueryWords> {
    return this.words.of(person);
  }

  @Serve('GET /api/find/counts')
  counts(
    @Input() { words, place, lens }: { words: string; place?: string; lens: FindLens },
    @Caller() person: Person,
  ): Promise<FindCounts> {
    return this.counter.counts(words, person, place, lens);
  }

  @Serve('GET /api/find/ranges')
  ranges(
    @Input()
    request: RangesRequest,
    @Caller() person: Person,
  ): Promise<FindRanges> {
    return this.counter.ranges(request, person);
  }

  @Serve('GET /api/like/properties')
  like(@Input() { item }: { item: string }, @Caller() person: Person): Promise<LikePropertiesAnswer> {
    return this.alike.like(item, person);
  }

  @Serve('GET /api/find/table')
  async table(@Input() request: TableRequest, @Caller() person: Person): Promise<StreamableFile> {
    return new StreamableFile(await this.tables.table(request, person), {
      type: TYPES[request.format],
      disposition: `attachment; filename="found.${request.format}"`,
    });
  }
}
