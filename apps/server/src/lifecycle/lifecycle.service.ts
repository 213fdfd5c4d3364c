import { Injectable } from '@nestjs/common';
import type { StepAnswer, StepRequest } from '@stem-trace/contract';
import { countsAsReleased, rightFor, type DiagramStep } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { AccessService } from '../access/access.service.js';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isReleased } from '../database/conditions.js';
import { stateBook } from '../database/state-book.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { SignaturesService } from '../signatures/signatures.service.js';
import { notAllowed, type DescribedVersion } from '../store/catalogue.service.js';
import { siteDay } from '../database/site-day.js';
import { sayItem } from '../store/names.js';
import { standingsOf } from '../store/standings.js';
import { record, type Happening } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { refuseCircles } from '../store/circles.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { ReleasesService } from '../build/releases.service.js';
import { IssuedService } from '../issued/issued.service.js';
import { WorkHost } from '../work/work-host.js';
import { ConsequencesService, revises } from './consequences.service.js';
import { happening, toldOnce } from './happenings.js';
import { askable } from './asked.js';
import { openSheet } from './open-sheet.js';
import { causes, releases, type StepTarget } from './step-ground.js';
import { StepJudgeService, type Settled } from './step-judge.service.js';
import { StepQuestionsService } from './step-questions.service.js';
import { ToldOfSteps } from './told.js';

/** Moves items from state to state: all of those named, or none, or those that can. */
@Injectable()
export class LifecycleService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly turn: StoreTurn,
    private readonly judging: StepJudgeService,
    private readonly questions: StepQuestionsService,
    private readonly work: WorkHost,
    private readonly releases: ReleasesService,
    private readonly issued: IssuedService,
    private readonly signatures: SignaturesService,
    private readonly access: AccessService,
    private readonly consequences: ConsequencesService,
  ) {}

  /**
   * @param isInBrowser whether a person asks, not a program that acts for one: only people sign
   * @throws ProblemError STEP_REFUSED where one of them cannot take it; nothing was changed then
   */
  async take(request: StepRequest, person: Person, isInBrowser: boolean): Promise<StepAnswer> {
    const first = await this.judging.targetsOf(this.database.manager, request, person);
    if (!request.leavesOut) refuseWithoutRight(first, await this.rights.of(person));
    const book = await stateBook(this.database);
    if (first.some(({ step }) => step && releases(step, book))) await this.refuseUnready(first, person);
    // The password is looked at before anybody waits for the turn.
    if (first.some(({ step }) => step?.signatures)) await this.confirm(request, person, isInBrowser);
    const turn = first.some(({ step }) => step && revises(step)) ? 'takeForStepAndWriting' : 'takeForStep';
    return this.turn[turn]((manager) => this.takeWithin(manager, first, request, person));
  }

  /** Takes a step in the caller's turn for steps. @param first what was looked at before the turn came */
  private async takeWithin(
    manager: EntityManager,
    first: readonly StepTarget[],
    request: StepRequest,
    person: Person,
    at = new Date(),
  ): Promise<StepAnswer> {
    await lockItems(
      manager,
      first.map(({ item }) => item.itemId),
    );
    const targets = await this.judging.targetsOf(manager, request, person);
    refuseOtherThan(first, targets);
    const settled = await this.judging.settle(manager, targets, request, person);
    const refused = causes(settled.refused);
    if (refused.length > 0 && (!request.leavesOut || settled.going.length === 0))
      throw new ProblemError('STEP_REFUSED', `${refused.join('; ')}. Nothing was changed.`, refused);
    await this.refuseUnshown(manager, settled, request);
    const sheet = await this.carryOut(manager, settled, { ...request, at }, person);
    await announce(manager, 'items', 'notices', 'changes');
    return answerOf(settled, sheet, await this.rights.of(person, manager));
  }

  /**
   * Takes requests on in the same transaction that makes an order for them, by whichever step leads from where each stands to another
   * open state.
   *
   * @throws ProblemError STEP_REFUSED for one that cannot be taken on
   */
  async takeOn(
    manager: EntityManager,
    requests: readonly DescribedVersion[],
    reason: string,
    { person, at }: { readonly person: Person; readonly at: Date },
  ): Promise<void> {
    const book = await stateBook(manager);
    const standings = await standingsOf(manager, requests);
    for (const { itemId, number, state } of requests) {
      const step = standings
        .get(itemId)
        ?.diagram.steps.find(
          ({ from, to, signatures }) => from.includes(state) && book.get(to)?.lane === 'open' && !signatures,
        );
      if (!step)
        throw new ProblemError(
          'STEP_REFUSED',
          `${number} is ${state}, and cannot be taken on from there. Nothing was changed.`,
        );
      await this.takeUnsigned(manager, { items: [number], step: step.name, reason }, person, at);
    }
  }

  /** In the caller's turn. @throws ProblemError STEP_REFUSED, also for a step that is signed: nobody signs without the password */
  async takeUnsigned(
    manager: EntityManager,
    request: StepRequest,
    person: Person,
    at = new Date(),
  ): Promise<StepAnswer> {
    const targets = await this.judging.targetsOf(manager, request, person);
    const signed = targets.find(({ step }) => step?.signatures);
    if (signed)
      throw new ProblemError(
        'STEP_REFUSED',
        `${signed.item.number}: ${request.step} is signed; take it by itself. Nothing was changed.`,
      );
    return this.takeWithin(manager, targets, request, person, at);
  }

  /**
   * Sends items on to wherever somebody decides about them, by the step that all of their lifecycles have for that.
   *
   * @throws ProblemError STEP_REFUSED where there is none, or one of them cannot take it
   */
  async sendOn(items: readonly string[], reason: string, person: Person): Promise<StepAnswer> {
    const book = await stateBook(this.database);
    const step = (await this.questions.offered(items, person)).find(
      ({ to }) => book.get(to)?.lane === 'under check',
    );
    if (!step)
      throw new ProblemError(
        'STEP_REFUSED',
        'No step leads from where all of these are to a check. Send them on one by one.',
      );
    return this.take({ items, step: step.name, reason }, person, false);
  }

  private async confirm(
    { password, zone }: StepRequest,
    person: Person,
    isInBrowser: boolean,
  ): Promise<void> {
    if (!isInBrowser)
      throw new ProblemError(
        'STEP_REFUSED',
        'This step is signed, and only a person signs: in the browser, with the password. Nothing was changed.',
      );
    if (!password || !zone)
      throw new ProblemError(
        'INPUT_INVALID',
        'This step is signed: give your password again. Nothing was changed.',
      );
    if (!isTimeZone(zone))
      throw new ProblemError('INPUT_INVALID', `${zone} is no time zone. Nothing was changed.`);
    await this.access.confirm(person, password);
  }

  private async carryOut(
    manager: EntityManager,
    { going, below, contents, book }: Settled,
    { reason, zone = '', at, for: logins = [], until }: StepRequest & { readonly at: Date },
    person: Person,
  ): Promise<string | null> {
    const signing = going.filter(({ step }) => step.signatures);
    // What waits is signed too where that is asked for.
    const stated = await this.signatures.sign(
      manager,
      signing.map(({ target: { item, at } }) => ({
        ...{ itemId: item.itemId, versionId: item.id, number: item.number, label: item.label },
        ...{ revisionId: at.revisionId, moves: at.moves, state: at.standing.state },
      })),
      {
        step: new Map(signing.map(({ target, step }) => [target.item.itemId, step])),
        ...{ person, zone, contents, at },
      },
    );
    const taken = going.filter(({ kind }) => kind === 'taken');
    const asked = await askable(
      manager,
      this.rights,
      logins,
      taken.map(({ target }) => target.item),
    );
    const sheet = await openSheet(manager, taken, { person, reason, book, at, asked, until });
    if (sheet === null && (asked.length > 0 || until !== undefined))
      throw new ProblemError(
        'INPUT_INVALID',
        'This step hands nothing on to a check, so that nobody can be asked to decide. Nothing was changed.',
      );
    await manager.query(
      `UPDATE revision SET state = t.state FROM unnest($1::bigint[], $2::text[]) AS t(id, state) WHERE revision.id = t.id`,
      [taken.map(({ target }) => target.at.revisionId), taken.map(({ step }) => step.to)],
    );
    const released = taken.filter(({ step }) => releases(step, book)).map(({ target }) => target.item);
    if (released.length > 0) {
      for (const { target, step } of taken) await supersede(manager, target, step);
      await this.signatures.freeze(
        manager,
        released.map(({ id }) => id),
        below,
        at,
      );
      await this.releases.begin(
        manager,
        released.filter(({ kind }) => kind === 'bill'),
        { person, notes: reason, at },
      );
      await this.issued.begin(
        manager,
        taken.map(({ target, step }) => ({ item: target.item, step })),
        { person, notes: reason, at },
      );
    }
    // Withdrawing, too, changes what the lens Released picks.
    const picksChange = taken.filter(
      ({ target, step }) =>
        countsAsReleased(book, target.item.state) !== releases(step, book) || releases(step, book),
    );
    if (picksChange.length > 0)
      await refuseCircles(
        manager,
        picksChange.map(({ target }) => target.item.itemId),
        'As released',
        'released',
      );
    const day = await siteDay(manager, at);
    await this.consequences.carryOut(manager, taken, { person, reason, at, day });
    const happened: Happening[] = [];
    const told = new ToldOfSteps(
      manager,
      this.rights,
      asked.map(({ id }) => id),
    );
    for (const each of going.filter(({ kind, step }) => kind !== 'waits' || step.signatures))
      happened.push(await happening(each, { person, reason, stated, told, sheet, at, day }));
    await record(manager, sheet === null ? happened : toldOnce(happened));
    return sheet;
  }

  /**
   * A signature is bound to the state that the signer was shown.
   *
   * @throws ProblemError STEP_REFUSED if an item of a signed step is not, or no longer, as it was shown
   */
  private async refuseUnshown(
    manager: EntityManager,
    { going }: Settled,
    { shown = {} }: StepRequest,
  ): Promise<void> {
    if (!going.some(({ step }) => step.signatures)) return;
    const items = going.map(({ target }) => target.item);
    const digests = await this.signatures.shownOf(
      manager,
      items.map(({ id }) => id),
    );
    const given = new Map(Object.entries(shown));
    const other = items.filter((item) => given.get(item.number) !== digests.get(item.id));
    const [first] = other;
    if (first === undefined) return;
    const more = other.length > 1 ? ` and ${other.length - 1} more` : '';
    const now = `${first.number} ${first.label}${more}`;
    throw new ProblemError(
      'STEP_REFUSED',
      given.has(first.number)
        ? `${now}: changed since you opened it, itself or below. Open it again before you sign. Nothing was changed.`
        : `${now}: you have not opened it. Open it before you sign. Nothing was changed.`,
      other.map(({ number, label }) => `${number} ${label} is not as you were shown it`),
    );
  }

  /** @throws ProblemError STEP_REFUSED for bills that are not ready, with why */
  private async refuseUnready(targets: readonly StepTarget[], person: Person): Promise<void> {
    const refused: string[] = [];
    for (const { item } of targets) {
      if (item.kind !== 'bill') continue;
      const { failures } = await this.work.ask('build check', { bill: item.number }, person);
      const [first] = failures;
      if (first)
        refused.push(
          `${item.number} is not ready: ${first.says}${failures.length > 1 ? `, and ${failures.length - 1} more` : ''}`,
        );
    }
    if (refused.length > 0)
      throw new ProblemError(
        'STEP_REFUSED',
        `${refused.join('; ')}. Nothing was changed. Look at what is open in Build.`,
        refused,
      );
  }
}

function isTimeZone(zone: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
  } catch {
    return false;
  }
}

/**
 * What was looked at before the turn came must be what is there now: else something would be released without having been locked,
 * or signed without the password.
 *
 * @throws ProblemError STEP_REFUSED
 */
function refuseOtherThan(first: readonly StepTarget[], now: readonly StepTarget[]): void {
  const known = new Map(first.map(({ item, step }) => [item.itemId, step?.signatures !== undefined]));
  const isSame = now.every(({ item, step }) => known.get(item.itemId) === (step?.signatures !== undefined));
  if (!isSame)
    throw new ProblemError(
      'STEP_REFUSED',
      'What it is made of, or its lifecycle, was changed just now. Look again. Nothing was changed.',
    );
}

/** @throws ProblemError NOT_ALLOWED of the first where the right is missing that the step asks for */
function refuseWithoutRight(targets: readonly StepTarget[], rights: Rights): void {
  for (const { item, at, step } of targets) {
    const right = step && rightFor(at.diagram, step);
    if (right && !rights.may(right, item.placeId))
      throw new ProblemError('NOT_ALLOWED', notAllowed(sayItem(rights, item), right));
  }
}

function answerOf({ going, refused }: Settled, sheet: string | null, rights: Rights): StepAnswer {
  const named = ({ target: { item } }: Settled['going'][number]): { number: string; version: string } => ({
    number: item.number,
    version: item.label,
  });
  return {
    sheet,
    done: going.filter(({ kind }) => kind === 'taken').map(named),
    signed: going.flatMap((each) => (each.kind === 'signed' ? { ...named(each), wanted: each.wanted } : [])),
    refused: refused.map(({ target, why }) => ({ number: sayItem(rights, target.item), reason: why })),
  };
}

/** A released revision takes the place of those released before it; they go by its lifecycle then, which knows their state. */
async function supersede(
  manager: EntityManager,
  { item, at }: StepTarget,
  { then }: DiagramStep,
): Promise<void> {
  for (const each of then)
    if (each.kind === 'supersede')
      await manager.query(
        `UPDATE revision r SET state = $3, lifecycle_version_id = n.lifecycle_version_id, moves = r.moves + 1
         FROM revision n WHERE n.id = $2 AND r.item_id = $1 AND r.position < n.position AND r.state <> $3 AND ${isReleased('r')}`,
        [item.itemId, at.revisionId, each.to],
      );
}
