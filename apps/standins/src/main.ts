/**
 * Starts a stand-in, at `STANDIN_PORT`, as `STANDIN` says: the planning system, which keeps what it gets in `STANDIN_FOLDER`; `mail`, which
 * takes mail at `STANDIN_SMTP_PORT` and keeps it there; `hooks`, which is told what happens; or `shop`, for the recipe `STANDIN_RECIPE` of
 * the Stem Trace at `STANDIN_STORE`.
 */
import type { Server } from 'node:http';
import { hooks } from './hooks.js';
import { mailbox, mailPage } from './mail.js';
import { planning } from './planning.js';
import { shop } from './shop.js';

const {
  STANDIN = 'planning',
  STANDIN_PORT = '0',
  STANDIN_SMTP_PORT = '0',
  STANDIN_FOLDER = '.stem-trace/planning',
  STANDIN_STORE = '',
  STANDIN_RECIPE = '',
  STANDIN_LOGIN = '',
  STANDIN_PASSWORD = '',
} = process.env;
const server = serverOf(STANDIN);
server.listen(Number(STANDIN_PORT), '127.0.0.1', () => {
  const address = server.address();
  if (address !== null && typeof address === 'object')
    process.stdout.write(`listening http://127.0.0.1:${address.port}\n`);
});
if (STANDIN === 'mail') {
  const box = mailbox(STANDIN_FOLDER);
  box.listen(Number(STANDIN_SMTP_PORT), '127.0.0.1', () => {
    const address = box.server.address();
    if (address !== null && typeof address === 'object')
      process.stdout.write(`takes smtp://127.0.0.1:${address.port}\n`);
  });
}
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => server.close(() => process.exit(0)));

function serverOf(what: string): Server {
  switch (what) {
    case 'shop':
      return shop({
        store: STANDIN_STORE,
        recipe: STANDIN_RECIPE,
        login: STANDIN_LOGIN,
        password: STANDIN_PASSWORD,
      });
    case 'hooks':
      return hooks();
    case 'mail':
      return mailPage(STANDIN_FOLDER);
    default:
      return planning(STANDIN_FOLDER);
  }
}
