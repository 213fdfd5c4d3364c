/** How people want to be told. */

/**
 * `to check`: something waits for one's decision. `decided`: what became of what one sent, made, or was asked about. `given`: a task or a
 * change was put into one's hands. `asked`: somebody wants what one holds. `watched`: something happened to what one watches.
 * `searches`: a kept search finds something else, or was shared.
 */
export const NOTICE_KINDS = ['to check', 'decided', 'given', 'asked', 'watched', 'searches'] as const;
export type NoticeKind = (typeof NOTICE_KINDS)[number];

/** On the desk alone; also by mail, at once or as one mail a day; or not at all. */
export const NOTICE_WAYS = ['desk', 'at once', 'daily', 'none'] as const;
export type NoticeWay = (typeof NOTICE_WAYS)[number];

export interface NoticeSetting {
  /** Where mail goes; none is sent where empty. */
  readonly mail: string;
  readonly ways: Readonly<Record<NoticeKind, NoticeWay>>;
}

export interface NoticeSettingAnswer extends NoticeSetting {
  /** Whether the server knows where to hand mail over. */
  readonly isSent: boolean;
  /** Why the last mail was not taken; null where it was. */
  readonly problem: string | null;
}
