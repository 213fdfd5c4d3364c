import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import type {
  BeginRequest,
  CarryOverRequest,
  DeriveRequest,
  KeepPlanRequest,
  PlanDraft,
  ProofAnswer,
} from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import { sendFile } from '../serve/send-file.js';
import { Input, Serve } from '../serve/serve.js';
import { DraftsService } from './drafts.service.js';
import type { ProofFormat } from './proof-file.js';
import { ProofsService, type ProofRequest } from './proofs.service.js';

@Controller()
export class DeriveController {
  constructor(
    private readonly work: WorkHost,
    private readonly proofs: ProofsService,
    private readonly drafts: DraftsService,
  ) {}

  /** Works out a derivation without writing anything. */
  @Serve('POST /api/derive/preview')
  preview(
    @Input() request: DeriveRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('derive preview', request, person, asker);
  }

  /** All that a plan is worked out from, for whoever works it out again with each decision. */
  @Serve('POST /api/derive/ground')
  ground(
    @Input() request: DeriveRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('derive ground', request, person, asker);
  }

  /** Names for the copies, before anybody has said what they should be. */
  @Serve('GET /api/derive/proposal')
  propose(
    @Input() request: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('derive proposal', request, person, asker);
  }

  @Serve('GET /api/plans')
  plans(@Input() { item }: { item: string }, @Caller() person: Person): Promise<PlanDraft[]> {
    return this.drafts.list(item, person);
  }

  @Serve('PUT /api/plans')
  keepPlan(@Input() request: KeepPlanRequest, @Caller() person: Person): Promise<PlanDraft> {
    return this.drafts.keep(request, person);
  }

  @Serve('GET /api/plan')
  plan(@Input() { id }: { id: string }, @Caller() person: Person): Promise<DeriveRequest> {
    return this.drafts.open(id, person);
  }

  @Serve('POST /api/plans/remove')
  removePlan(@Input() { id }: { id: string }, @Caller() person: Person): Promise<void> {
    return this.drafts.remove(id, person);
  }

  @Serve('POST /api/begin')
  begin(@Input() request: BeginRequest, @Caller() person: Person): Promise<JsonBytes> {
    return this.work.json('begin', { ...request, at: new Date() }, person);
  }

  @Serve('POST /api/derive')
  carryOut(@Input() request: DeriveRequest, @Caller() person: Person): Promise<JsonBytes> {
    return this.work.json('derive', { ...request, at: new Date() }, person);
  }

  /** How far a proof is, for whoever watches it; it is begun where there is none. */
  @Serve('POST /api/derive/proof')
  askForProof(@Input() request: ProofRequest, @Caller() person: Person): Promise<ProofAnswer> {
    return this.proofs.ask(request, person);
  }

  /** What later changes of an origin would do to a variant. */
  @Serve('GET /api/carry-over')
  carryOver(
    @Input() request: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('carry over', request, person, asker);
  }

  @Serve('POST /api/carry-over')
  carryOverOut(@Input() request: CarryOverRequest, @Caller() person: Person): Promise<JsonBytes> {
    return this.work.json('carry over out', { ...request, at: new Date() }, person);
  }

  /** The last proof, reference by reference. */
  @Serve('GET /api/derive/proof/rows')
  document(
    @Input() request: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('proof document', request, person, asker);
  }

  @Serve('GET /api/derive/proof/file')
  async file(
    @Input() request: { item: string; format: ProofFormat },
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('proof file', request, person));
  }

  /** Reads the files of a variant back, as often as somebody asks, and answers when that is done. */
  @Serve('GET /api/derive/proof')
  proof(
    @Input() { item }: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<Proof> {
    return this.proofs.proofOf(item, person, asker);
  }
}
