import {
  frameRate,
  fromTimecode,
  fullFrame,
  machineCommand,
  quarterFrame,
  QuarterFrames,
  readMachine,
} from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { axeFaults, choose, visitDemo, type Visit } from '../helpers/app';

// The scene's transport and another machine: timecode and commands over MIDI, each way.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

const rate = frameRate('24');
const frame = (text: string) => fromTimecode(text, rate);
let visit: Visit;
let page: Page;
let errors: string[];

interface Machine {
  sent: { bytes: number[]; at: number }[];
  say: (bytes: number[]) => void;
  /** Sends messages one behind another, each so many milliseconds after the last. */
  roll: (messages: number[][], each: number) => void;
  halt: () => void;
}
const machine = <T>(act: (machine: Machine, given: T) => void, given?: T) =>
  page.evaluate(
    ([code, value]) =>
      (0, eval)(`(${code as string})`)((window as unknown as { machine: Machine }).machine, value) as void,
    [act.toString(), given] as const,
  );
const sent = () => page.evaluate(() => (window as unknown as { machine: Machine }).machine.sent);

/** A machine behind a port: the browser's own part is a stand-in, all that listens and speaks is ours. */
async function plugIn(into: Page): Promise<void> {
  await into.addInitScript(() => {
    const input = {
      id: 'in',
      name: 'Machine',
      state: 'connected',
      onmidimessage: null as null | ((m: object) => void),
    };
    const made: Machine & { timer?: ReturnType<typeof setInterval> } = {
      sent: [],
      say: (bytes) => input.onmidimessage?.({ data: Uint8Array.from(bytes), timeStamp: performance.now() }),
      roll(messages, each) {
        made.halt();
        const began = performance.now();
        let next = 0;
        made.timer = setInterval(() => {
          for (; next < messages.length && began + next * each <= performance.now(); next++)
            input.onmidimessage?.({ data: Uint8Array.from(messages[next]), timeStamp: began + next * each });
        }, 4);
      },
      halt: () => clearInterval(made.timer),
    };
    const output = {
      ...{ id: 'out', name: 'Machine', state: 'connected' },
      send: (bytes: number[], at?: number) => made.sent.push({ bytes: [...bytes], at: at ?? performance.now() }),
      clear: () => (made.sent = made.sent.filter((m) => m.at <= performance.now())),
    };
    const access = { inputs: new Map([['in', input]]), outputs: new Map([['out', output]]), onstatechange: null };
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: () => Promise.resolve(access) });
    Object.assign(window, { machine: made });
  });
}

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
  await plugIn(page);
  await page.goto(`${visit.url}spot`);
  await expect(timer()).toHaveText('01:00:00:00');
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

const timer = () => page.getByRole('timer', { name: 'Playhead' });
const panel = () => page.getByRole('group', { name: 'Link with another machine' });
const box = (name: string) => panel().getByRole('checkbox', { name });
const rolling = (from: string, of = rate) =>
  Array.from({ length: 4 * 600 }, (_, i) => quarterFrame(4 * fromTimecode(from, of) + i, of));
const each = (of = rate) => (1000 * of.den) / of.num / 4;
/** Frames of the scene that the playhead shows. */
const shown = async () => frame((await timer().textContent())!.trim());

test('it follows timecode: set out together, within half a frame, through a jump; where nothing comes any more it stops and says so', async () => {
  await page.getByRole('button', { name: /^Link/ }).click();
  await panel().getByRole('button', { name: 'Use MIDI' }).click();
  await choose(panel().getByRole('combobox', { name: 'Port that is listened to' }), 'Machine');
  await box('Follow its timecode').check();
  await expect(panel()).toContainText('No timecode comes in');
  await machine((m, given) => m.roll(given!.messages, given!.each), { messages: rolling('01:00:05:00'), each: each() });
  await expect(panel()).toContainText(/Locked.*0\.[0-4]\d frames apart/);
  await expect.poll(shown).toBeGreaterThan(frame('01:00:06:00'));
  expect(await axeFaults(page)).toEqual([]);
  await machine((m, given) => m.roll(given!.messages, given!.each), { messages: rolling('01:00:20:00'), each: each() });
  await expect.poll(shown).toBeGreaterThan(frame('01:00:20:12'));
  await expect(panel()).toContainText(/Locked.*0\.[0-4]\d frames apart/);
  await machine((m) => m.halt());
  await expect(panel()).toContainText('Lost: nothing comes in any more');
  const stood = await shown();
  await machine((m, bytes) => m.say(bytes!), fullFrame(frame('01:00:10:00'), rate));
  await expect(timer()).toHaveText('01:00:10:00');
  expect(stood).toBeGreaterThan(frame('01:00:20:12'));
  // What counts otherwise is told, and not followed.
  const other = frameRate('25');
  await machine((m, given) => m.roll(given!.messages, given!.each), {
    messages: rolling('01:00:05:00', other),
    each: each(other),
  });
  await expect(panel()).toContainText('It counts 25 frames a second, and this scene 24.');
  await expect(timer()).toHaveText('01:00:10:00');
  await machine((m) => m.halt());
  await box('Follow its timecode').uncheck();
});

test('it plays, stops and goes where it is told to', async () => {
  await box('Play, stop and locate when it says so').check();
  await machine((m, bytes) => m.say(bytes!), machineCommand({ type: 'locate', frame: frame('01:00:30:00'), rate }));
  await expect(timer()).toHaveText('01:00:30:00');
  await machine((m, bytes) => m.say(bytes!), machineCommand({ type: 'play' }));
  await expect.poll(shown).toBeGreaterThan(frame('01:00:30:06'));
  await machine((m, bytes) => m.say(bytes!), machineCommand({ type: 'stop' }));
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await box('Play, stop and locate when it says so').uncheck();
});

test('it tells where it is in time, and has the other machine go along', async () => {
  await choose(panel().getByRole('combobox', { name: 'Port that is spoken on' }), 'Machine');
  await box('Send timecode').check();
  await box('Have it play, stop and locate').check();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Home');
  await expect(timer()).toHaveText('01:00:00:00');
  await machine((m) => (m.sent = []));
  await page.keyboard.press('Space');
  await expect.poll(async () => (await sent()).filter((m) => m.bytes[0] === 0xf1).length).toBeGreaterThan(200);
  await page.keyboard.press('Space');
  await expect
    .poll(async () => (await sent()).some((m) => m.bytes.join() === machineCommand({ type: 'stop' }).join()))
    .toBe(true);
  const all = await sent();
  const read = all.map((m) => ({ ...m, says: readMachine(m.bytes) }));
  const commands = read.flatMap(({ says }) => (says?.type === 'command' ? [says.command.type] : []));
  expect(commands).toEqual(['locate', 'play', 'stop']);
  const reader = new QuarterFrames();
  const told = read.flatMap(({ says, at }) => (says?.type === 'quarter' ? (reader.take(says, at) ?? []) : []));
  expect(told.length).toBeGreaterThan(150);
  // By how much each of them is off a machine that runs evenly, frames: one that a busy machine held up says nothing of the rest.
  const lead = told.map((p) => p.frame - ((p.at - told[0].at) * 24) / 1000).sort((a, b) => a - b);
  const middle = lead[Math.floor(lead.length / 2)];
  const off = lead.map((l) => Math.abs(l - middle)).sort((a, b) => a - b);
  expect(off[Math.floor(off.length * 0.9)]).toBeLessThan(0.5);
  expect(told[0].frame).toBeGreaterThanOrEqual(frame('01:00:00:00'));
  expect(told[0].frame).toBeLessThan(frame('01:00:02:00'));
  expect(read.filter(({ says }) => says?.type === 'full').length).toBeGreaterThanOrEqual(2);
});

test('what the other machine asks for is not asked of it in turn', async () => {
  await page.getByRole('button', { name: /^Link/ }).click();
  await box('Play, stop and locate when it says so').check();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Home');
  await expect(timer()).toHaveText('01:00:00:00');
  await machine((m) => (m.sent = []));
  const there = frame('01:00:02:00');
  await machine((m, bytes) => m.say(bytes!), machineCommand({ type: 'locate', frame: there, rate }));
  await expect(timer()).toHaveText('01:00:02:00');
  await machine((m, bytes) => m.say(bytes!), machineCommand({ type: 'play' }));
  await expect.poll(shown).toBeGreaterThan(frame('01:00:02:06'));
  await machine((m, bytes) => m.say(bytes!), machineCommand({ type: 'stop' }));
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  // Its own wishes are told as before.
  await page.keyboard.press('Space');
  const told = async () => (await sent()).map((m) => readMachine(m.bytes)).filter((says) => says?.type === 'command');
  await expect.poll(async () => (await told()).length).toBe(2);
  await page.keyboard.press('Space');
  await expect.poll(async () => (await told()).map((says) => says.command.type)).toEqual(['locate', 'play', 'stop']);
});
