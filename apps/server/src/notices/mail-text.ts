/** What a mail says: plain text, with a link to the very thing that each notice is about. */

export interface MailNotice {
  readonly says: string;
  /** Address within this application. */
  readonly address: string;
}

export interface MailText {
  readonly subject: string;
  readonly text: string;
}

const MOST_LISTED = 200;
/** RFC 5322 2.1.1: lines should not be longer than 78 characters; the subject is one of them. */
const SUBJECT_LENGTH = 70;

/** @param publicAddress where browsers find this server; without it, addresses stand as paths */
export function mailText(
  notices: readonly MailNotice[],
  { name, publicAddress }: { readonly name: string; readonly publicAddress: string },
): MailText {
  const [first] = notices;
  const others = notices.length - 1;
  const more = others === 0 ? '' : ` (and ${others} more)`;
  const listed = notices.slice(0, MOST_LISTED).map(({ says, address }) => {
    const link = publicAddress === '' ? address : new URL(address, publicAddress).href;
    return `${oneLine(says)}\n${link}`;
  });
  const left = notices.length - listed.length;
  return {
    subject: cut(oneLine(first?.says ?? ''), SUBJECT_LENGTH - more.length) + more,
    text: [
      `${name},`,
      ...listed,
      ...(left > 0 ? [`… and ${left} more, on your desk.`] : []),
      `How you are told is set under Settings, You${publicAddress === '' ? '.' : `: ${new URL('/settings/you', publicAddress).href}`}`,
    ].join('\n\n'),
  };
}

function oneLine(text: string): string {
  return text.replace(/[\p{Cc}\p{Zl}\p{Zp}\s]+/gu, ' ').trim();
}

function cut(text: string, length: number): string {
  const characters = [...text];
  return characters.length <= length ? text : `${characters.slice(0, length - 1).join('')}…`;
}
