/** People, what they may do where, and how they come in. */
import type { Grant, Right } from '@stem-trace/core';
import type { PersonView, Role } from './items.js';

export interface PersonRow extends PersonView {
  /** Whether they may sign in. */
  readonly isActive: boolean;
}

export interface NewPerson {
  readonly login: string;
  readonly name: string;
  readonly initials: string;
  readonly role: Role;
  readonly password: string;
}

export interface PersonChange {
  readonly login: string;
  readonly name?: string;
  readonly initials?: string;
  readonly role?: Role;
  readonly isActive?: boolean;
  /** Ends all sessions and tokens of the person, too. */
  readonly password?: string;
}

/** One's own password. */
export interface PasswordRequest {
  readonly old: string;
  readonly password: string;
}

/** How one wants things shown, on whatever machine. */
export interface Preferences {
  readonly theme: 'system' | 'light' | 'dark';
  readonly density: 'usual' | 'dense';
  /** Size of the pictures in rows of items. */
  readonly pictures: 'none' | 'small' | 'large';
  /** `said`: “yesterday”, with the exact time on hover. */
  readonly dates: 'said' | 'exact';
  /** Unit in which masses are shown. */
  readonly mass: 'kg' | 'g' | 'lb';
  /** Unit in which sizes are shown, and areas and volumes with it. */
  readonly length: 'mm' | 'in';
}

export interface PlaceAccessView {
  readonly place: string;
  readonly inherits: boolean;
  readonly grants: readonly Grant[];
  /** From the places above, nearest first. */
  readonly fromAbove: readonly { readonly place: string; readonly grants: readonly Grant[] }[];
  /** What the asker may do here. */
  readonly mine: readonly Right[];
}

export interface PlaceAccessRequest {
  readonly place: string;
  readonly inherits: boolean;
  readonly grants: readonly Grant[];
}

export interface BinRow {
  readonly path: string;
  readonly items: number;
  readonly binnedAt: string;
  readonly binnedBy: string;
}

/** `read`: only what changes nothing. */
export type TokenScope = 'read' | 'all';

export interface TokenRequest {
  readonly name: string;
  readonly scope: TokenScope;
  /** Days until it ends; null where it does not. */
  readonly days: number | null;
}

/** A browser that is signed in, or a program with a token. */
export interface EntryRow {
  readonly id: string;
  readonly login: string;
  readonly kind: 'session' | 'program';
  readonly name: string;
  readonly scope: TokenScope;
  readonly since: string;
  readonly usedAt: string | null;
  readonly expiresAt: string | null;
  /** Whether it is the one that asks. */
  readonly isThis: boolean;
}
