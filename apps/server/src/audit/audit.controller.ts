import { Controller, Get, Header, Query, StreamableFile } from '@nestjs/common';
import type { AuditAnswer, AuditQuery } from '@stem-trace/contract';
import { auditFileSchema, auditSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { Validate } from '../problems/validate.js';
import { AuditService, type AuditPage } from './audit.service.js';

@Controller('api')
export class AuditController {
  constructor(private readonly audit: AuditService) {}

  @Get('audit')
  list(@Query(new Validate(auditSchema)) page: AuditPage, @Caller() person: Person): Promise<AuditAnswer> {
    refuseOthers(person);
    return this.audit.list(page);
  }

  @Get('audit.csv')
  @Header('Content-Disposition', 'attachment; filename="audit trail.csv"')
  csv(@Query(new Validate(auditFileSchema)) query: AuditQuery, @Caller() person: Person): StreamableFile {
    refuseOthers(person);
    return new StreamableFile(this.audit.csv(query), { type: 'text/csv; charset=utf-8' });
  }
}

function refuseOthers({ role }: Person): void {
  if (role !== 'administrator')
    throw new ProblemError('NOT_ALLOWED', 'Only an administrator may read the audit trail.');
}
