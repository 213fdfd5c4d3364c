/**
 * Starts a stand-in, at `STANDIN_PORT`: the planning system, which keeps what it gets in `STANDIN_FOLDER`; or the shop, where
 * `STANDIN` is `shop`, for the recipe `STANDIN_RECIPE` of the Stem Trace at `STANDIN_STORE`.
 */
import { planning } from './planning.js';
import { shop } from './shop.js';

const {
  STANDIN = 'planning',
  STANDIN_PORT = '0',
  STANDIN_FOLDER = '.stem-trace/planning',
  STANDIN_STORE = '',
  STANDIN_RECIPE = '',
  STANDIN_LOGIN = '',
  STANDIN_PASSWORD = '',
} = process.env;
const server =
  STANDIN === 'shop'
    ? shop({
        store: STANDIN_STORE,
        recipe: STANDIN_RECIPE,
        login: STANDIN_LOGIN,
        password: STANDIN_PASSWORD,
      })
    : planning(STANDIN_FOLDER);
server.listen(Number(STANDIN_PORT), '127.0.0.1', () => {
  const address = server.address();
  if (address !== null && typeof address === 'object')
    process.stdout.write(`listening http://127.0.0.1:${address.port}\n`);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => server.close(() => process.exit(0)));
