/** What is said of a route beside its answer. */
import type { Right } from '@stem-trace/core';
import type { Route } from './route-answers.js';

/** Rooms of the server, by which the description of the routes is ordered. */
export type RouteRoom =
  | 'access'
  | 'audit'
  | 'build'
  | 'changes'
  | 'structure'
  | 'custody'
  | 'running'
  | 'derive'
  | 'wish'
  | 'files'
  | 'find'
  | 'intake'
  | 'issued'
  | 'items'
  | 'lifecycle'
  | 'mark-up'
  | 'notices'
  | 'places'
  | 'properties'
  | 'settings'
  | 'webhooks';

export interface RouteFacts {
  /** What it does, as a sentence without a full stop. */
  readonly does: string;
  readonly room: RouteRoom;
  readonly status: 200 | 201 | 202 | 204;
  /**
   * What is asked for where the items or places lie; `administrator` for that role alone, `signed in` where everybody may,
   * `nobody` where one need not sign in.
   */
  readonly wants: Right | 'administrator' | 'signed in' | 'nobody';
  /** Refused to programs' tokens: a stolen token must not create credentials that outlive it. */
  readonly isInBrowserOnly?: true;
  /** Refused for each item by itself, in an answer that is no problem. */
  readonly refusesEach?: true;
  /** Changes nothing, though it is not asked for with GET: a question too long for an address. */
  readonly isQuestion?: true;
  /** Name of the answer's type, media type of an answer that is no JSON, or null where there is no body. */
  readonly answer: string | { readonly media: string } | null;
  /** Whether the answer is a list of that type. */
  readonly isList?: true;
  /** Most bytes of a JSON body. */
  readonly mostBytes?: number;
  /** The body is a file. */
  readonly upload?: { readonly media: string; readonly mostBytes: number };
  /** May be answered from memory while nothing has changed. */
  readonly isRemembered?: true;
}

/** A JSON body may be so large where a route says nothing else. */
export const MOST_BODY_BYTES = 100_000;

/** What a room of the server answers. */
export type RoomRoutes = { readonly [R in Route]?: RouteFacts };
