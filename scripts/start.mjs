import { ensureBuilt, ensureInstalled } from './prepare.mjs';
import { environment, migrate, startServer, stop } from './stack.mjs';

/* `npm start`: the application on your own data, without the demo world. Migrations run before it listens. */

ensureInstalled();
ensureBuilt();
const env = environment(process.env.ETERNO_DATA ?? 'data');
if (!process.env.ETERNO_NOW) delete env.ETERNO_NOW;
try {
  migrate(env);
} catch {
  // it has said what is wrong
  process.exit(1);
}
const port = Number(process.env.PORT ?? 3210);
const server = await startServer(env, port);
process.stdout.write(`Eterno is at http://127.0.0.1:${port}\n`);
const end = () => void stop(server).then(() => process.exit(0));
process.on('SIGINT', end);
process.on('SIGTERM', end);
