// usage: main.ts [--port N] [--write] [--commons FOLDER|ADDRESS] [--exchange FOLDER|ADDRESS] [--host FOLDER|ADDRESS] [--team FOLDER|ADDRESS] [--team-storage FOLDER|ADDRESS]… [--demo FOLDER] [FOLDER…]
import { spawn } from 'node:child_process';
import { readFileSync, readdirSync, statSync } from 'node:fs';
import type { Server } from 'node:http';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { checked, validators, type ProjectFile } from '@core/schemas';
import { pino } from 'pino';
import { CommonsFolder } from '../services/commons';
import { ExchangeFolder } from '../services/exchange';
import { HostFolder } from '../services/host';
import { storageFrom, Team, teamIn } from '../services/team';
import { createApp } from './app';
import { BackupFolder } from './backups';
import { rootFor, type Root } from './roots';
import { rootSecret, stateFolder } from './secret';
import { FileWriter } from './writing';

const top = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const USAGE =
  'Give folders that hold sounds, --write if labels may be written into their files, --commons, --exchange, --host or --team with the address of one, and --port NUMBER if 4747 is taken: [--write] [--commons ADDRESS] [--exchange ADDRESS] [--host ADDRESS] [--team ADDRESS] [--port NUMBER] [FOLDER…]';
const options = {
  port: { type: 'string', default: '4747' },
  demo: { type: 'string' },
  commons: { type: 'string' },
  exchange: { type: 'string' },
  host: { type: 'string' },
  team: { type: 'string' },
  'team-storage': { type: 'string', multiple: true },
  write: { type: 'boolean', default: false },
  help: { type: 'boolean', short: 'h' },
} as const;

/** Options that are right, or one line that says what would be. */
function given() {
  try {
    return parseArgs({ options, allowPositionals: true });
  } catch (error) {
    const option = /'([^' ]+)/.exec((error as Error).message)?.[1] ?? 'an option';
    console.error(`There is no ${option}, or it lacks its value. ${USAGE}`);
    process.exit(1);
  }
}
const { values, positionals } = given();
if (values.help) {
  console.log(USAGE);
  process.exit(0);
}
const secret = rootSecret();
const log = pino({ level: 'info' }, pino.destination({ dest: 2 }));

function foldersOf(names: string[]): Root[] {
  return names.map((name) => {
    const folder = resolve(process.env.INIT_CWD ?? process.cwd(), name);
    if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory()) {
      console.error(`There is no folder ${folder}. Give folders that hold sounds.`);
      process.exit(1);
    }
    return { ...rootFor(folder, undefined, secret), writes: values.write };
  });
}

function demo(folder: string): { roots: Root[]; project: ProjectFile } {
  const libraries = join(folder, 'libraries');
  const roots = readdirSync(libraries)
    .sort()
    .map((name) => ({ ...rootFor(join(libraries, name), undefined, secret), writes: values.write }));
  const file = join(top, 'src/demo/project.json');
  const project = checked<ProjectFile>(JSON.parse(readFileSync(file, 'utf8')), validators.projectFile, file);
  return { roots: [...roots, rootFor(join(top, 'src/demo/picture'), 'Picture', secret)], project };
}

const served = values.demo ? demo(resolve(values.demo)) : { roots: foldersOf(positionals), project: undefined };
/** Opens a folder as the desktop does; undefined where there is no desktop. A folder is never run. */
const opener = process.platform === 'darwin' ? 'open' : 'xdg-open';
const desktop = process.platform === 'darwin' || process.env.DISPLAY || process.env.WAYLAND_DISPLAY;
const show = (folder: string) =>
  new Promise<void>((done, fail) => {
    const child = spawn(opener, [folder], { stdio: 'ignore', detached: true });
    child.on('error', fail);
    child.on('spawn', () => {
      child.unref();
      done();
    });
  });
/**
 * Writes into files; undefined unless that was asked for. What an earlier start left half-written is put back before anything is served,
 * whether this one writes or not.
 */
async function fileWriter(): Promise<FileWriter | undefined> {
  try {
    const writer = new FileWriter(join(stateFolder(), 'writing'));
    for (const fault of await writer.recover()) log.error(`What was begun could not be put back: ${fault}`);
    return values.write ? writer : undefined;
  } catch (error) {
    if (!values.write) return undefined;
    const why = `nothing can be kept in ${stateFolder()}: ${(error as Error).message}`;
    console.error(`Files cannot be written safely, as ${why}`);
    process.exit(1);
  }
}
/** A service that is served here from its folder, or one that runs by itself on this machine. */
function serviceFrom<T>(given: string, option: string, open: (folder: string) => T): T | URL {
  try {
    if (!/^https?:/i.test(given)) return open(resolve(process.env.INIT_CWD ?? process.cwd(), given));
    const address = new URL(given.endsWith('/') ? given : `${given}/`);
    if (!/^(127\.0\.0\.1|localhost|\[::1\])$/.test(address.hostname))
      throw new Error(`${given} is not on this machine; nothing leaves it.`);
    return address;
  } catch (error) {
    console.error(`${(error as Error).message} Give --${option} the address of one that runs: npm run services.`);
    process.exit(1);
  }
}
const invite = (token: string) =>
  console.log(`The team is new. Whoever joins first, with this invitation, owns it: ${token}`);
if (values['team-storage'] && (values.team === undefined || /^https?:/i.test(values.team))) {
  console.error('--team-storage belongs to a team that is served here: give --team with its folder, too.');
  process.exit(1);
}
const storages = values['team-storage']?.map((named) =>
  storageFrom(named, (folder) => resolve(process.env.INIT_CWD ?? process.cwd(), folder)),
);
const writer = await fileWriter();
const app = createApp({
  ...served,
  ...(writer ? { writer } : {}),
  ...(desktop ? { show } : {}),
  ...(values.commons !== undefined && {
    commons: serviceFrom(values.commons, 'commons', (folder) => new CommonsFolder(folder)),
  }),
  ...(values.exchange !== undefined && {
    exchange: serviceFrom(values.exchange, 'exchange', (folder) => new ExchangeFolder(folder)),
  }),
  ...(values.host !== undefined && {
    host: serviceFrom(values.host, 'host', (folder) => new HostFolder(folder)),
  }),
  ...(values.team !== undefined && {
    team: serviceFrom(values.team, 'team', (folder) => new Team(teamIn(folder, storages), { invite })),
  }),
  backups: new BackupFolder(join(stateFolder(), 'backups')),
  pages: join(top, 'dist'),
  log: (line) => log.error(line),
});

/** Takes the wanted port of the loopback interface, and no other: the browser keeps a library for each address. */
function listen(wanted: number): Promise<Server> {
  return new Promise((done) => {
    const server = app.listen(wanted, '127.0.0.1', (error?: Error) => {
      if (!error) return done(server.on('upgrade', app.upgrade));
      const busy = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
      console.error(
        busy
          ? `Port ${wanted} is taken; most likely Cormorant runs already, at http://127.0.0.1:${wanted}/.\n` +
              'End it first, or give --port with another number: the browser keeps a library of its own for each.'
          : `Port ${wanted} cannot be used: ${error.message}`,
      );
      process.exit(1);
    });
  });
}

const wanted = Number(values.port);
if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65_535) {
  console.error(`“${values.port}” is no port. Give a number up to 65535; 0 takes any free one.`);
  process.exit(1);
}
const server = await listen(wanted);
const { port } = server.address() as { port: number };
console.log(`Cormorant is at http://127.0.0.1:${port}/`);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => server.close(() => process.exit(0)).closeAllConnections());
