/**
 * Stands in for a mail server: takes every mail by SMTP, keeps it in a folder, each Message-ID once, and shows on a page what came. No
 * mail leaves this machine.
 */
import { createHash } from 'node:crypto';
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises';
import { createServer, type Server, type ServerResponse } from 'node:http';
import { join } from 'node:path';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';

const MOST_BYTES = 5_000_000;
const MOST_SHOWN = 500;

export interface KeptMail {
  readonly at: string;
  readonly from: string;
  readonly to: string;
  readonly subject: string;
  readonly text: string;
}

/** Takes mail. @param folder where it is kept */
export function mailbox(folder: string): SMTPServer {
  return new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: MOST_BYTES,
    onData(stream, session, done) {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.once('end', () => {
        if (stream.sizeExceeded) {
          done(new Error(`A mail has at most ${MOST_BYTES} bytes here.`));
          return;
        }
        const to = session.envelope.rcptTo.map(({ address }) => address).join(', ');
        keep(folder, Buffer.concat(chunks), to).then(() => done(), done);
      });
    },
  });
}

async function keep(folder: string, raw: Buffer, to: string): Promise<void> {
  const { from, subject = '', text = '', messageId } = await simpleParser(raw);
  const mail: KeptMail = { at: new Date().toISOString(), from: from?.text ?? '', to, subject, text };
  const key = createHash('sha256')
    .update(`${messageId ?? raw.toString('base64')} ${to}`)
    .digest('hex');
  await mkdir(folder, { recursive: true });
  if ((await readdir(folder)).some((name) => name.endsWith(`${key}.json`))) return;
  // Whole or not at all, and there before the sender is told so.
  const coming = join(folder, `${key}.${process.pid}.coming`);
  await writeFile(coming, JSON.stringify(mail), { flush: true });
  await rename(coming, join(folder, `${mail.at.replace(/[:.]/g, '-')} ${key}.json`));
}

/** Newest first. */
export async function kept(folder: string): Promise<KeptMail[]> {
  const names = (await readdir(folder).catch(() => []))
    .filter((name) => name.endsWith('.json'))
    .sort()
    .reverse();
  return Promise.all(
    names
      .slice(0, MOST_SHOWN)
      .map(async (name) => JSON.parse(await readFile(join(folder, name), 'utf8')) as KeptMail),
  );
}

/** Shows what came. */
export function mailPage(folder: string): Server {
  return createServer((request, response) => {
    const to = new URL(request.url ?? '/', 'http://here').searchParams.get('to') ?? '';
    kept(folder)
      .then((mails) =>
        show(
          response,
          mails.filter((mail) => mail.to.includes(to)),
          to,
        ),
      )
      .catch((error: unknown) => response.writeHead(500).end(String(error)));
  });
}

function show(response: ServerResponse, mails: readonly KeptMail[], to: string): void {
  const list = mails.map(
    (mail) =>
      `<article><h2>${escaped(mail.subject)}</h2><p>To <a href="/?to=${encodeURIComponent(mail.to)}">${escaped(mail.to)}</a>, from ${escaped(mail.from)}, ${mail.at}</p><pre>${linked(mail.text)}</pre></article>`,
  );
  const body = list.length === 0 ? '<p>No mail has come.</p>' : list.join('');
  response
    .writeHead(200, {
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'",
    })
    .end(
      `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Mail (stand-in)</title><style>body{font-family:sans-serif;margin:2rem;max-width:50rem}article{border-top:1px solid #ccc}pre{white-space:pre-wrap}</style></head><body><h1>Mail (stand-in)${to === '' ? '' : ` to ${escaped(to)}`}</h1>${body}</body></html>`,
    );
}

/** Addresses of the web as links; everything else as it is. */
function linked(text: string): string {
  return text
    .split(/(https?:\/\/[^\s]+)/)
    .map((part, at) => (at % 2 === 1 ? `<a href="${escaped(part)}">${escaped(part)}</a>` : escaped(part)))
    .join('');
}

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (character) => ESCAPES[character] ?? character);
}
