// usage: main.ts [--port N] [--demo FOLDER] [FOLDER…]
import { readFileSync, readdirSync, statSync } from 'node:fs';
import type { Server } from 'node:http';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { checked, validators, type ProjectFile } from '@core/schemas';
import { pino } from 'pino';
import { createApp } from './app';
import { rootFor, type Root } from './roots';

const top = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const { values, positionals } = parseArgs({
  options: { port: { type: 'string', default: '4747' }, demo: { type: 'string' } },
  allowPositionals: true,
});
const log = pino({ level: 'info' }, pino.destination({ dest: 2 }));

function foldersOf(names: string[]): Root[] {
  return names.map((name) => {
    const folder = resolve(process.env.INIT_CWD ?? process.cwd(), name);
    if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory()) {
      console.error(`There is no folder ${folder}. Give folders that hold sounds.`);
      process.exit(1);
    }
    return rootFor(folder);
  });
}

function demo(folder: string): { roots: Root[]; project: ProjectFile } {
  const libraries = join(folder, 'libraries');
  const roots = readdirSync(libraries)
    .sort()
    .map((name) => rootFor(join(libraries, name)));
  const file = join(top, 'src/demo/project.json');
  const project = checked<ProjectFile>(JSON.parse(readFileSync(file, 'utf8')), validators.projectFile, file);
  return { roots: [...roots, rootFor(join(top, 'src/demo/picture'), 'Picture')], project };
}

const given = values.demo ? demo(resolve(values.demo)) : { roots: foldersOf(positionals), project: undefined };
const app = createApp({ ...given, pages: join(top, 'dist'), log: (line) => log.error(line) });

/** Takes the wanted port of the loopback interface, or the next free one. */
function listen(port: number, tries = 20): Promise<Server> {
  return new Promise((done, fail) => {
    const server = app.listen(port, '127.0.0.1', (error?: Error) => {
      if (!error) return done(server);
      if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE' || tries === 0) return fail(error);
      listen(port + 1, tries - 1).then(done, fail);
    });
  });
}

const server = await listen(Number(values.port));
const { port } = server.address() as { port: number };
console.log(`Cormorant is at http://127.0.0.1:${port}/`);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => server.close(() => process.exit(0)).closeAllConnections());
