import type { DiagramStep, Right, StepBy } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import type { StepTarget } from './step-ground.js';

/** Who is told of steps besides those who made or watch the items. People and what they may are read once for all of them. */
export class ToldOfSteps {
  private people: readonly Person[] | undefined;
  private readonly known = new Map<string, readonly string[]>();

  constructor(
    private readonly manager: EntityManager,
    private readonly rights: RightsService,
    /** Ids of those who are asked by name; then they are told, and nobody because of what they are. */
    private readonly asked: readonly string[] = [],
  ) {}

  /** @returns ids of people; whoever sent it on is told of everything that becomes of it */
  async of({ item: { placeId }, at }: StepTarget, { then }: DiagramStep): Promise<string[]> {
    const who = then.flatMap((each) => (each.kind === 'tell' ? each.who : []));
    const others = who.filter(({ kind }) => kind !== 'sender');
    const key = JSON.stringify([placeId, others]);
    const told =
      this.asked.length > 0 ? this.asked : (this.known.get(key) ?? (await this.meant(others, placeId)));
    this.known.set(key, told);
    return [...told, ...(at.senderId === undefined ? [] : [at.senderId])];
  }

  /** @returns ids of those who are told by what they are, who they are, or what they may where something lies */
  async meant(who: readonly StepBy[], placeId: string): Promise<string[]> {
    if (who.length === 0) return [];
    this.people ??= await this.manager.find(Person, { where: { isActive: true } });
    const meant: string[] = [];
    for (const person of this.people) {
      const may = (await this.rights.of(person, this.manager)).at(placeId);
      if (may.has('see') && who.some((each) => isMeant(each, person, may))) meant.push(person.id);
    }
    return meant;
  }
}

function isMeant(who: StepBy, { login, role }: Person, may: ReadonlySet<Right>): boolean {
  switch (who.kind) {
    case 'role':
      return role === who.role;
    case 'person':
      return login === who.id;
    case 'right':
      return may.has(who.right);
    case 'sender':
      return false;
  }
}
