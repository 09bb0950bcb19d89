import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createServer, type Server } from 'node:net';

// The server as a command: what it says when it cannot do what it was asked for.

const running: ChildProcess[] = [];
const holding: Server[] = [];
afterEach(() => {
  running.splice(0).forEach((c) => c.kill());
  holding.splice(0).forEach((s) => s.close());
});

/** Starts the server. @returns what it said until it was there or had ended, and its exit code, undefined while it runs */
function start(...args: string[]): Promise<{ said: string; code?: number | null }> {
  const child = spawn('node', ['--import', 'tsx', 'src/server/main.ts', ...args]);
  running.push(child);
  let said = '';
  return new Promise((done) => {
    const listen = (data: Buffer) => {
      said += String(data);
      if (said.includes('Cormorant is at')) done({ said });
    };
    child.stdout.on('data', listen);
    child.stderr.on('data', listen);
    child.on('close', (code) => done({ said, code }));
  });
}
const held = () =>
  new Promise<number>((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => done((server.address() as { port: number }).port));
    holding.push(server);
  });

test('a taken port is told, with where Cormorant may be already; another is never taken in its place', async () => {
  const port = await held();
  const { said, code } = await start('--port', String(port));
  expect(code).toBe(1);
  expect(said).toContain(`Port ${port} is taken`);
  expect(said).toContain(`http://127.0.0.1:${port}/`);
});

test.each(['no', '-3', '70000', '1.5'])('%s is no port', async (port) => {
  const { said, code } = await start(`--port=${port}`);
  expect([code, said]).toEqual([1, expect.stringContaining('is no port')]);
});

test('a folder that is not there is told; any free port is taken when that is asked for', async () => {
  const lost = await start('--port', '0', '/no/such/folder');
  expect([lost.code, lost.said]).toEqual([1, expect.stringContaining('There is no folder /no/such/folder')]);
  const { said, code } = await start('--port', '0', 'tests');
  expect(code).toBeUndefined();
  const url = /http:\S+/.exec(said)![0];
  expect(await (await fetch(`${url}api/roots`)).json()).toMatchObject([{ name: 'tests' }]);
});

test.each([
  [
    ['demo', '--help'],
    0,
    /^Usage: npm run demo \[-- \[--reset\] \[--team-storage FOLDER\|ADDRESS\] \[--port NUMBER\]\]\n$/,
  ],
  [['demo', '--prot', '5'], 1, /^“--prot” is not understood\. Usage: npm run demo.*\n$/],
  [['start', '--port'], 1, /^“--port” is not understood\. Usage: npm start -- .*\n$/],
  [['test', 'fast'], 1, /is not understood\. Usage: npm run test, with nothing behind it\n$/],
])('npm run %j says in one line what is right', (args, code, line) => {
  const { status, stdout, stderr } = spawnSync('node', ['scripts/run.mjs', ...args], { encoding: 'utf8' });
  expect([status, stdout + stderr]).toEqual([code, expect.stringMatching(line)]);
});

test('the server itself says the same of a wrong option', async () => {
  const { said, code } = await start('--prot', '5');
  expect([code, said]).toEqual([1, expect.stringMatching(/^There is no --prot, or it lacks its value\. .*\n$/)]);
});
