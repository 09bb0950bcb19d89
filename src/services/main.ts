// A service by itself, for a page that is served elsewhere on this machine. usage: main.ts commons FOLDER [--port N]
import express, { type NextFunction, type Request, type Response } from 'express';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { CommonsFolder, commonsRouter } from './commons';

const USAGE = 'Give what is to run and where its files lie: commons FOLDER [--port NUMBER]';

function fail(why: string): never {
  console.error(`${why} ${USAGE}`);
  process.exit(1);
}
function given() {
  try {
    return parseArgs({ options: { port: { type: 'string', default: '4750' } }, allowPositionals: true });
  } catch {
    return fail('There is no such option.');
  }
}
const { values, positionals } = given();
const [name, folder] = positionals;
if (name !== 'commons' || !folder) fail(name ? `There is no service ${name}, or its folder is missing.` : '');
const port = Number(values.port);
if (!Number.isInteger(port) || port < 0 || port > 65_535) fail(`“${values.port}” is no port.`);

const OWN = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;
const app = express();
app.disable('x-powered-by');
app.use((req: Request, res: Response, next: NextFunction) => {
  const { host = '', origin } = req.headers;
  const isOwn = origin === undefined || (origin.startsWith('http://') && OWN.test(origin.slice(7)));
  // A foreign Host means a rebound name; pages of this machine may ask, others may not.
  if (!OWN.test(host) || !isOwn)
    return void res.status(403).json({ error: 'Pages of this machine may ask, others not.' });
  if (req.method !== 'GET' && req.method !== 'HEAD' && req.method !== 'OPTIONS')
    return void res.status(405).json({ error: 'It only gives, it takes nothing.' });
  if (origin !== undefined) res.setHeader('Access-Control-Allow-Origin', origin);
  res.setHeader('Vary', 'Origin');
  res.setHeader('Access-Control-Allow-Headers', 'Range');
  res.setHeader('Access-Control-Expose-Headers', 'Content-Range, Content-Length, Retry-After');
  res.setHeader('Cross-Origin-Resource-Policy', 'cross-origin');
  if (req.method === 'OPTIONS') return void res.status(204).end();
  next();
});
try {
  app.use(commonsRouter(new CommonsFolder(resolve(process.env.INIT_CWD ?? process.cwd(), folder))));
} catch (error) {
  fail((error as Error).message);
}
const server = app.listen(port, '127.0.0.1', (error?: Error) => {
  if (error) fail(`Port ${port} cannot be used: ${error.message}.`);
  const { port: taken } = server.address() as { port: number };
  console.log(`The commons is at http://127.0.0.1:${taken}/`);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => server.close(() => process.exit(0)).closeAllConnections());
