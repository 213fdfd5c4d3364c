import { Controller, Header, StreamableFile } from '@nestjs/common';
import type { AuditAnswer, AuditQuery } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { AuditService, type AuditPage } from './audit.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class AuditController {
  constructor(private readonly audit: AuditService) {}

  @Serve('GET /api/audit')
  list(@Input() page: AuditPage, @Caller() person: Person): Promise<AuditAnswer> {
    refuseOthers(person);
    return this.audit.list(page);
  }

  @Serve('GET /api/audit.csv')
  @Header('Content-Disposition', 'attachment; filename="audit trail.csv"')
  csv(@Input() query: AuditQuery, @Caller() person: Person): StreamableFile {
    refuseOthers(person);
    return new StreamableFile(this.audit.csv(query), { type: 'text/csv; charset=utf-8' });
  }
}

function refuseOthers({ role }: Person): void {
  if (role !== 'administrator')
    throw new ProblemError('NOT_ALLOWED', 'Only an administrator may read the audit trail.');
}
