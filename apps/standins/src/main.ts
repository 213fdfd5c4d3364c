/** Starts the planning stand-in: `STANDIN_PORT`, `STANDIN_FOLDER`. */
import { planning } from './planning.js';

const { STANDIN_PORT = '0', STANDIN_FOLDER = '.stem-trace/planning' } = process.env;
const server = planning(STANDIN_FOLDER);
server.listen(Number(STANDIN_PORT), '127.0.0.1', () => {
  const address = server.address();
  if (address !== null && typeof address === 'object')
    process.stdout.write(`listening http://127.0.0.1:${address.port}\n`);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => server.close(() => process.exit(0)));
