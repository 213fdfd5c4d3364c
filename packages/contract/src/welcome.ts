/** What is said before anybody has signed in. */
import type { Role } from './items.js';

export interface DemoPerson {
  readonly login: string;
  readonly name: string;
  readonly role: Role;
  readonly password: string;
}

/** What may be known before signing in. */
export interface WelcomeAnswer {
  /** People of the demo data with their passwords; empty in a real store. */
  readonly demo: readonly DemoPerson[];
}
