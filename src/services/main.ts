// Services by themselves, for a page that is served elsewhere on this machine. usage: main.ts [--commons FOLDER] [--exchange FOLDER] [--host FOLDER] [--team FOLDER] [--team-storage FOLDER|ADDRESS]… [--storage FOLDER] [--port N]
import express, { type NextFunction, type Request, type Response } from 'express';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { CommonsFolder, commonsRouter } from './commons';
import { ExchangeFolder, exchangeRouter } from './exchange';
import { HostFolder, SessionHost } from './host';
import { keysIn } from './signed';
import { BUCKET, storageRouter } from './storage';
import { storageFrom, Team, teamIn } from './team';

const USAGE =
  'Give what is to run with the folder of its files: [--commons FOLDER] [--exchange FOLDER] [--host FOLDER] [--team FOLDER] [--team-storage FOLDER|ADDRESS]… [--storage FOLDER] [--port NUMBER]';
const options = {
  port: { type: 'string', default: '4750' },
  commons: { type: 'string' },
  exchange: { type: 'string' },
  host: { type: 'string' },
  team: { type: 'string' },
  'team-storage': { type: 'string', multiple: true },
  storage: { type: 'string' },
} as const;

function fail(why: string): never {
  console.error(`${why} ${USAGE}`);
  process.exit(1);
}
function given() {
  try {
    return parseArgs({ options }).values;
  } catch {
    return fail('There is no such option, or it lacks its value.');
  }
}
const values = given();
const port = Number(values.port);
if (!Number.isInteger(port) || port < 0 || port > 65_535) fail(`“${values.port}” is no port.`);

if (values['team-storage'] && values.team === undefined) fail('--team-storage belongs to a team.');

const OWN = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;
const app = express();
app.disable('x-powered-by');
app.use((req: Request, res: Response, next: NextFunction) => {
  const { host = '', origin } = req.headers;
  const isOwn = origin === undefined || (origin.startsWith('http://') && OWN.test(origin.slice(7)));
  // A foreign Host means a rebound name; pages of this machine may ask, others may not.
  if (!OWN.test(host) || !isOwn)
    return void res.status(403).json({ error: 'Pages of this machine may ask, others not.' });
  if (origin !== undefined) res.setHeader('Access-Control-Allow-Origin', origin);
  // Whoever is signed in to a team shows that from a page of this machine.
  if (origin !== undefined) res.setHeader('Access-Control-Allow-Credentials', 'true');
  res.setHeader('Vary', 'Origin');
  res.setHeader('Access-Control-Allow-Methods', 'GET, HEAD, POST');
  res.setHeader('Access-Control-Allow-Headers', 'Range, Content-Type, X-Signature');
  res.setHeader('Access-Control-Expose-Headers', 'Content-Range, Content-Length, Retry-After');
  res.setHeader('Cross-Origin-Resource-Policy', 'cross-origin');
  if (req.method === 'OPTIONS') return void res.status(204).end();
  next();
});
const folderOf = (name: string) => resolve(process.env.INIT_CWD ?? process.cwd(), name);
const running: string[] = [];
/** The built pages. */
const pages = join(dirname(fileURLToPath(import.meta.url)), '../../dist');
let host: SessionHost | undefined;
try {
  if (values.commons !== undefined) {
    app.use('/commons', commonsRouter(new CommonsFolder(folderOf(values.commons))));
    running.push('commons');
  }
  if (values.exchange !== undefined) {
    app.use('/exchange', exchangeRouter(new ExchangeFolder(folderOf(values.exchange))));
    running.push('exchange');
  }
  if (values.host !== undefined) {
    host = new SessionHost(new HostFolder(folderOf(values.host)), {
      page: (res) => res.sendFile(join(pages, 'host.html')),
    });
    app.use('/host', host.router);
    app.use('/assets', express.static(join(pages, 'assets'), { index: false }));
    running.push('host');
  }
  if (values.team !== undefined) {
    const invite = (token: string) =>
      console.log(`The team is new. Whoever joins first, with this invitation, owns it: ${token}`);
    app.use(
      '/team',
      new Team(
        teamIn(
          folderOf(values.team),
          values['team-storage']?.map((named) => storageFrom(named, folderOf)),
        ),
        { invite },
      ).router,
    );
    running.push('team');
  }
  if (values.storage !== undefined) {
    const keys = keysIn(process.env.CORMORANT_STORAGE_KEYS);
    if (!keys) throw new Error('A storage is asked by keys: give them as CORMORANT_STORAGE_KEYS=ID:SECRET.');
    app.use('/storage', storageRouter(folderOf(values.storage), keys));
    running.push(`storage/${BUCKET}`);
  }
} catch (error) {
  fail((error as Error).message);
}
if (running.length === 0) fail('Nothing is to run.');
app.use((_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }));
app.use((error: Error, _req: Request, res: Response, next: NextFunction) => {
  console.error(error.message);
  if (res.headersSent) return next(error);
  res.status(500).json({ error: 'The service failed at this. Ask again.' });
});
const server = app.listen(port, '127.0.0.1', (error?: Error) => {
  if (error) fail(`Port ${port} cannot be used: ${error.message}.`);
  const { port: taken } = server.address() as { port: number };
  for (const name of running) console.log(`The ${name.split('/')[0]} is at http://127.0.0.1:${taken}/${name}/`);
});
server.on('upgrade', (req, socket, head) => {
  const { host: asked = '', origin = '' } = req.headers;
  const isOwn = OWN.test(asked) && origin.startsWith('http://') && OWN.test(origin.slice(7));
  if (host && isOwn && req.url === '/host/v1/session') host.upgrade(req, socket, head);
  else socket.end('HTTP/1.1 404 Not Found\r\nConnection: close\r\n\r\n');
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => server.close(() => process.exit(0)).closeAllConnections());
