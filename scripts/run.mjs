// One entry for every command. Uses Node's standard library alone, sets up what is missing, prints each step and its time.
// usage: node scripts/run.mjs demo [--reset] [--port N] | services [--port N] | start [--write] [--port N] [FOLDER…] | test | check | build | bench [PART…] | fuzz [CASES] | screenshots | count
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  constants,
  cpSync,
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';

const top = resolve(dirname(fileURLToPath(import.meta.url)), '..');
const cache = join(top, '.cache');
const began = performance.now();
const secondsSince = (t) => `${((performance.now() - t) / 1000).toFixed(1)} s`;
const bin = (name) => join(top, 'node_modules/.bin', name);
const tsx = ['--import', 'tsx'];

/** What a server keeps for its user; of one that only serves tests, figures and pictures, in here. */
const ownState = { XDG_STATE_HOME: join(cache, 'state') };

/** Runs a command. @returns its exit code and, unless it is shown, what it printed */
function run(command, args, { shown = false, env = {}, behind = false } = {}) {
  return new Promise((done) => {
    // What runs behind something else leaves the cores to it.
    const [program, all] =
      behind && process.platform !== 'win32' ? ['nice', ['-n', '10', command, ...args]] : [command, args];
    const child = spawn(program, all, {
      cwd: top,
      stdio: ['ignore', shown ? 'inherit' : 'pipe', shown ? 'inherit' : 'pipe'],
      env: { ...process.env, FORCE_COLOR: '0', ...env },
    });
    let said = '';
    child.stdout?.on('data', (d) => (said += d));
    child.stderr?.on('data', (d) => (said += d));
    child.on('error', (error) => done({ code: 1, said: error.message }));
    child.on('close', (code) => done({ code: code ?? 1, said }));
  });
}

/** A step with a name: prints what it does and how long it took; a failure prints everything and ends the run. */
async function step(name, work) {
  const from = performance.now();
  const { code, said } = await work();
  console.log(`  ${code === 0 ? 'done' : 'FAILED'}  ${name} (${secondsSince(from)})`);
  if (code !== 0) {
    if (said) console.log(said);
    process.exit(1);
  }
}

function filesBelow(path) {
  if (!existsSync(path)) return [];
  if (statSync(path).isFile()) return [path];
  return readdirSync(path)
    .sort()
    .filter((n) => n !== 'generated')
    .flatMap((n) => filesBelow(join(path, n)));
}

/** Does something only when what it depends on has changed since it was last done. */
async function unlessDone(name, inputs, outcome, work) {
  const hash = createHash('sha256').update(process.version);
  for (const file of inputs.flatMap((i) => filesBelow(join(top, i))))
    hash.update(file.slice(top.length)).update(readFileSync(file));
  const print = hash.digest('hex');
  const stamp = join(cache, `${name.replace(/\W+/g, '-')}.stamp`);
  if (existsSync(join(top, outcome)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === print) return;
  await step(name, work);
  mkdirSync(cache, { recursive: true });
  writeFileSync(stamp, print);
}

async function dependencies() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Cormorant needs Node.js 20.19 or newer; this is ${process.version}.`);
    process.exit(1);
  }
  await unlessDone('install packages', ['package-lock.json'], 'node_modules/.package-lock.json', () =>
    run('npm', ['ci', '--no-audit', '--no-fund']),
  );
  await unlessDone(
    'compile schemas and inner loops, and cut the lexicon down',
    [
      ...['src/core/schemas', 'src/core/naming', 'src/core/library'],
      ...filesBelow(join(top, 'src/core'))
        .filter((file) => file.endsWith('.wat'))
        .map((file) => file.slice(top.length)),
      ...['scripts/generate.ts', 'scripts/lexicon.ts'],
    ],
    'src/core/generated/meaning.js',
    () => run('node', [...tsx, 'scripts/generate.ts']),
  );
}

const build = () =>
  unlessDone(
    'build the pages',
    ['src/app', 'src/core', 'src/platform', 'vite.config.ts', 'package-lock.json'],
    'dist/index.html',
    () => run(bin('vite'), ['build']),
  );

const demoLibrary = () =>
  unlessDone(
    'synthesise the demo library (320 sounds, about a minute)',
    [
      ...['src/demo', 'src/core/synth', 'src/core/files', 'src/core/elsewhere', 'src/services/team'],
      'scripts/make-demo.ts',
    ],
    '.demo/truth.json',
    () => run('node', [...tsx, 'scripts/make-demo.ts']),
  );

/** Where the demo's libraries lie that one may write to. */
const demoOwn = '.demo/own';

/** The services of the demo: sounds that others share, and what publishers say of theirs, as folders. */
const services = [
  ...['--commons', join(top, '.demo/commons'), '--exchange', join(top, '.demo/own/exchange')],
  ...['--host', join(top, '.demo/own/host'), '--team', join(top, '.demo/own/team')],
];

/** A copy of the demo's libraries to write to; made once, and again when it is reset. */
async function demoCopy(reset) {
  const parts = ['libraries', 'exchange', 'team'].filter((part) => reset || !existsSync(join(top, demoOwn, part)));
  if (reset) rmSync(join(top, demoOwn, 'host'), { recursive: true, force: true });
  if (parts.length === 0) return;
  await step(reset ? 'put the demo library back as it was' : 'copy the demo library, to write to', async () => {
    for (const part of parts) {
      rmSync(join(top, demoOwn, part), { recursive: true, force: true });
      cpSync(join(top, '.demo', part), join(top, demoOwn, part), { recursive: true, mode: constants.COPYFILE_FICLONE });
    }
    return { code: 0 };
  });
}

/** Independent programs with which the tests check our readers and measurements; without them those tests are skipped. */
const peers = ['ffmpeg', 'sox', 'flac', 'lame', 'vorbis-tools', 'opus-tools', 'libimage-exiftool-perl', 'mediainfo'];
/** The program by which it is seen whether a package is there, where it is called otherwise. */
const programOf = { 'vorbis-tools': 'oggenc', 'opus-tools': 'opusenc', 'libimage-exiftool-perl': 'exiftool' };

async function peerPrograms() {
  const missing = peers.filter((p) => !existsSync(`/usr/bin/${programOf[p] ?? p}`));
  if (missing.length === 0) return;
  const from = performance.now();
  await apt('update');
  const { code, said } = await apt('install', '-y', '--no-install-recommends', ...missing);
  console.log(
    code === 0
      ? `  done  install ${missing.join(', ')} (${secondsSince(from)})`
      : `  note  ${missing.join(', ')} could not be installed; tests that need them are skipped. ${said.trim().split('\n').pop()}`,
  );
}

/** Debian's package manager, as whoever may use it. */
function apt(...args) {
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  return process.getuid?.() === 0 ? run('apt-get', args, { env }) : run('sudo', ['-n', 'apt-get', ...args], { env });
}

async function chromium() {
  const path = process.env.CHROMIUM ?? '/usr/bin/chromium';
  if (existsSync(path)) return;
  await step("install Debian's chromium", async () => {
    await apt('update');
    return apt('install', '-y', '--no-install-recommends', 'chromium');
  });
}

/** Serves until Ctrl+C, and opens the page where a desktop is there to show it. */
async function serve(args) {
  console.log(`Ready after ${secondsSince(began)}. Ctrl+C ends it.`);
  const server = spawn('node', [...tsx, 'src/server/main.ts', ...args], {
    cwd: top,
    stdio: ['inherit', 'pipe', 'inherit'],
  });
  server.stdout.on('data', (data) => {
    process.stdout.write(data);
    const url = /http:\S+/.exec(String(data))?.[0];
    const opener = process.platform === 'darwin' ? 'open' : 'xdg-open';
    const desktop = process.platform === 'darwin' || process.env.DISPLAY || process.env.WAYLAND_DISPLAY;
    if (url && desktop && !process.env.CI)
      spawn(opener, [url], { stdio: 'ignore', detached: true }).on('error', () => undefined);
  });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
  server.on('exit', (code) => process.exit(code ?? 0));
}

/** What a check of types keeps for the next time: only what has changed is checked again. */
const kept = (name) => ['--incremental', '--tsBuildInfoFile', join(cache, `${name}.tsbuildinfo`)];
/** Checks that need no build. Each counts as one test in the closing line. */
const checks = [
  ['types of the core (no DOM, no Node.js)', bin('tsc'), ['-p', 'src/core', ...kept('core')]],
  ['types of the interface', bin('vue-tsc'), ['-p', 'src/app', ...kept('app')]],
  ['types of server, demo, scripts and tests', bin('tsc'), ['-p', '.', ...kept('rest')]],
  [
    'lint',
    bin('eslint'),
    ['src', 'tests', 'scripts', '--max-warnings', '0', '--cache', '--cache-location', join(cache, 'eslint')],
  ],
  ['floors', bin('depcruise'), ['src', '--config', '.dependency-cruiser.cjs']],
];

/** Runs checks two at a time. @param first what else is done, before them. @returns how many passed and failed */
async function runChecks(...first) {
  const tally = { passed: 0, failed: 0 };
  const waiting = [...first, ...checks];
  const worker = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      if (typeof next === 'function') {
        await next();
        continue;
      }
      const [name, command, args] = next;
      const from = performance.now();
      const { code, said } = await run(command, args);
      tally[code === 0 ? 'passed' : 'failed']++;
      console.log(`  ${code === 0 ? 'passed' : 'FAILED'}  ${name} (${secondsSince(from)})`);
      if (code !== 0) console.log(said);
    }
  };
  await Promise.all([worker(), worker()]);
  return tally;
}

async function runTests(name, command, args, report, read, behind = false) {
  if (!behind) console.log(`\n${name}`);
  const from = performance.now();
  mkdirSync(cache, { recursive: true });
  rmSync(join(cache, report), { force: true });
  const env = { CORMORANT_REPORT: join(cache, report), ...ownState };
  const { code, said } = await run(command, args, { shown: !behind, behind, env });
  if (behind) console.log(`\n${name}\n${said}`);
  const tally = existsSync(join(cache, report))
    ? read(JSON.parse(readFileSync(join(cache, report), 'utf8')))
    : { passed: 0, failed: 1 };
  // A runner that fails without a failing test (a broken set-up) must not pass.
  if (code !== 0 && tally.failed === 0) tally.failed = 1;
  console.log(`  ${name}: ${tally.passed} passed, ${tally.failed} failed (${secondsSince(from)})`);
  return tally;
}

/**
 * @param without tests that take long, for the fast loop
 * @param behind whether something else has the cores first
 */
const jest = (without = '/node_modules/', behind = false) =>
  runTests(
    'Jest',
    bin('jest'),
    ['--testPathIgnorePatterns', without, '--json', `--outputFile=${join(cache, 'jest.json')}`],
    'jest.json',
    (r) => ({
      passed: r.numPassedTests,
      failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
    }),
    behind,
  );
const playwright = () =>
  runTests('Playwright', bin('playwright'), ['test'], 'playwright.json', (r) => ({
    passed: r.stats.expected + r.stats.flaky,
    failed: r.stats.unexpected,
  }));

const commands = {
  async demo(args) {
    await dependencies();
    await Promise.all([build(), demoLibrary()]);
    await demoCopy(args.includes('--reset'));
    console.log('  The team of the demo: sign in as Maren Quay or Idris Vane, password “net loft demo”');
    await serve(['--demo', demoOwn, ...services, '--write', ...args.filter((a) => a !== '--reset')]);
  },
  async services(args) {
    await dependencies();
    await demoLibrary();
    await demoCopy(false);
    await run('node', [...tsx, 'src/services/main.ts', ...services, ...args], { shown: true });
  },
  async start(args) {
    if (args.length === 0) console.log('No folder is given; add some in the interface, or: npm start -- FOLDER…');
    await dependencies();
    await build();
    await serve(args);
  },
  async test() {
    await dependencies();
    await chromium();
    await peerPrograms();
    console.log('\nChecks');
    const tallies = [await runChecks(demoLibrary, build)];
    tallies.push(...(await Promise.all([playwright(), jest(undefined, true)])));
    const total = (key) => tallies.reduce((sum, t) => sum + t[key], 0);
    console.log(`\nAll of it took ${secondsSince(began)}`);
    console.log(`${total('passed')} passed, ${total('failed')} failed`);
    process.exit(total('failed') === 0 ? 0 : 1);
  },
  async check() {
    await dependencies();
    const checked = await runChecks();
    const tested = await jest('tests/(demo|truth)/|\\.long\\.test');
    console.log(`${checked.passed + tested.passed} passed, ${checked.failed + tested.failed} failed`);
    process.exit(checked.failed + tested.failed === 0 ? 0 : 1);
  },
  async build() {
    await dependencies();
    await build();
  },
  async bench(args) {
    await dependencies();
    await chromium();
    await Promise.all([build(), demoLibrary()]);
    process.exit(
      (
        await run('node', ['--expose-gc', '--max-old-space-size=12000', ...tsx, 'scripts/bench.ts', ...args], {
          shown: true,
          env: ownState,
        })
      ).code,
    );
  },
  async fuzz([cases = '200000']) {
    await dependencies();
    process.exit((await run('node', [...tsx, 'scripts/fuzz.ts', cases], { shown: true })).code);
  },
  async screenshots() {
    await dependencies();
    await chromium();
    await Promise.all([build(), demoLibrary()]);
    process.exit((await run('node', [...tsx, 'scripts/screenshots.ts'], { shown: true, env: ownState })).code);
  },
  count: () => void process.exit(spawnSync('node', ['scripts/count.mjs'], { cwd: top, stdio: 'inherit' }).status ?? 1),
};

/** What may be said behind each command; a word that is wrong gets one line that says what is right. */
const usages = {
  demo: {
    line: 'npm run demo [-- [--reset] [--team-storage FOLDER|ADDRESS] [--port NUMBER]]',
    options: {
      port: { type: 'string' },
      reset: { type: 'boolean' },
      'team-storage': { type: 'string', multiple: true },
    },
    words: false,
  },
  start: {
    line: 'npm start -- [--write] [--port NUMBER] [--commons ADDRESS] [--exchange ADDRESS] [--host ADDRESS] [--team ADDRESS] FOLDER…',
    options: {
      ...{ port: { type: 'string' }, write: { type: 'boolean' } },
      ...{ commons: { type: 'string' }, exchange: { type: 'string' } },
      ...{ host: { type: 'string' }, team: { type: 'string' } },
    },
    words: true,
  },
  services: {
    line: 'npm run services [-- [--team-storage FOLDER|ADDRESS] [--storage FOLDER] [--port NUMBER]]',
    options: {
      ...{ port: { type: 'string' }, storage: { type: 'string' } },
      'team-storage': { type: 'string', multiple: true },
    },
    words: false,
  },
  bench: { line: 'npm run bench [-- PART…]', options: {}, words: true },
  fuzz: { line: 'npm run fuzz [-- CASES]', options: {}, words: true },
};

function checkWords(name, args) {
  const { line, options, words } = usages[name] ?? {
    line: `npm run ${name}, with nothing behind it`,
    options: {},
    words: false,
  };
  try {
    const help = { help: { type: 'boolean', short: 'h' } };
    const { values } = parseArgs({ args, options: { ...options, ...help }, allowPositionals: words });
    if (!values.help) return;
    console.log(`Usage: ${line}`);
    process.exit(0);
  } catch (error) {
    const wrong = /'([^']+)'/.exec(error.message)?.[1].split(' ')[0] ?? args.join(' ');
    console.error(`“${wrong}” is not understood. Usage: ${line}`);
    process.exit(1);
  }
}

const [command, ...rest] = process.argv.slice(2);
if (!(command in commands)) {
  console.error(`Commands: ${Object.keys(commands).join(', ')}`);
  process.exit(1);
}
checkWords(command, rest);
await commands[command](rest);
