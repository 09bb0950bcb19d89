import { expect, test, type Page } from '@playwright/test';
import { memorySource, readAudioFile, writeWav } from '@core/files';
import {
  axeFaults,
  choose,
  currentRow,
  hush,
  openFirst as openFirstOf,
  rendered,
  saved,
  search,
  visitDemo,
  type Visit,
} from '../helpers/app';
import { apart, crossings, sine } from '../helpers/signals';

// Playing, marking and opening sounds by hand: keys, instruments, regions, the small window, files from the desktop.

let visit: Visit;
let page: Page;
let errors: string[];

/** A MIDI instrument, and a desktop that opens files, as the browser would show them to the page. */
const standIns = () => {
  type Input = { id: string; name: string; state: string; onmidimessage?: ((e: { data: Uint8Array }) => void) | null };
  const input: Input = { id: 'kb', name: 'Stage keys', state: 'connected' };
  const access = { inputs: new Map([['kb', input]]), onstatechange: null };
  const play = (...bytes: number[]) => input.onmidimessage?.({ data: Uint8Array.from(bytes) });
  let refused = true;
  const requestMIDIAccess = () => (refused ? Promise.reject(new Error('no')) : Promise.resolve(access));
  Object.defineProperty(navigator, 'requestMIDIAccess', { value: requestMIDIAccess, configurable: true });
  let launch: ((l: { files: unknown[] }) => void) | undefined;
  const launchQueue = { setConsumer: (consume: typeof launch) => (launch = consume) };
  Object.defineProperty(window, 'launchQueue', { value: launchQueue, configurable: true });
  const openWith = (name: string, bytes: number[]) =>
    launch?.({
      files: [{ kind: 'file', name, getFile: () => Promise.resolve(new File([Uint8Array.from(bytes)], name)) }],
    });
  Object.assign(window, { hands: { play, allow: () => (refused = false), openWith } });
};
interface Hands {
  play(...bytes: number[]): void;
  allow(): void;
  openWith(name: string, bytes: number[]): void;
}
type HandsWindow = Window & { hands: Hands };
const midi = (...bytes: number[]) => page.evaluate((b) => (window as unknown as HandsWindow).hands.play(...b), bytes);

test.beforeAll(async () => {
  test.setTimeout(180_000);
  visit = await visitDemo({ acceptDownloads: true });
  ({ page, errors } = visit);
  await page.addInitScript(standIns);
  await page.reload();
  await page.getByRole('checkbox', { name: 'Play when moving' }).uncheck();
});
test.afterAll(() => visit?.end());
test.afterEach(async () => {
  await hush(page);
  expect(errors.splice(0)).toEqual([]);
});

const openFirst = (query: string) => openFirstOf(page, query);
/** Shows the keys, if they are not there. */
async function showKeyboard(): Promise<void> {
  const button = page.getByRole('button', { name: 'Play by keys' });
  if ((await button.getAttribute('aria-pressed')) === 'false') await button.click();
}
const wave = () => page.getByRole('img', { name: /^Waveform of/ });
async function dragOver(from: number, to: number, y = 40): Promise<void> {
  const box = (await wave().boundingBox())!;
  await page.mouse.move(box.x + box.width * from, box.y + y);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * to, box.y + y, { steps: 4 });
  await page.mouse.up();
}

test('the computer’s keys play the current sound at their pitches, and mean the list again when let go', async () => {
  await openFirst('foghorn harbor 02');
  await showKeyboard();
  const keyboard = page.getByRole('region', { name: 'Keyboard' });
  await expect(keyboard.getByRole('button', { name: 'Armed' })).toBeVisible();
  const pitch = async (key: string) => {
    const [left] = await rendered(page, 48000, async () => {
      await page.keyboard.down(key);
      await expect(keyboard.getByRole('button', { pressed: true, name: /as it is|semitones/ })).toHaveCount(1);
    });
    await page.keyboard.up(key);
    await expect(keyboard.getByRole('button', { pressed: true, name: /as it is|semitones/ })).toHaveCount(0);
    return crossings(left.slice(24000), 48000);
  };
  const own = await pitch('f');
  // The row above is a fourth higher, by the same hand.
  const higher = (await pitch('r')) / own;
  // A horn sags and is rough: how exact the pitches are is for the tests of the engine.
  expect(higher).toBeGreaterThan(1.2);
  expect(higher).toBeLessThan(1.6);
  // Keys of the screen rest meanwhile: T plays and holds nothing in the tray.
  const tray = await page.getByRole('button', { name: /^Held for now/ }).textContent();
  await page.keyboard.press('t');
  expect(await page.getByRole('button', { name: /^Held for now/ }).textContent()).toBe(tray);
  await page.keyboard.press('Escape');
  await expect(keyboard.getByRole('button', { name: 'Arm keys' })).toBeVisible();
  await page.keyboard.press('t');
  await expect(page.getByRole('button', { name: /^Held for now/ })).not.toHaveText(tray!);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /^Held for now/ })).toHaveText(tray!);
  expect(await axeFaults(page)).toEqual([]);
});

test('an instrument plays on any stage, its keys learn commands, and a refusal is told', async () => {
  await openFirst('foghorn harbor 02');
  await showKeyboard();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'MIDI' }).click();
  const panel = page.getByRole('group', { name: 'MIDI instruments' });
  await panel.getByRole('button', { name: 'Use instruments' }).click();
  await expect(panel.getByText(/does not let this page use instruments/)).toBeVisible();
  await page.evaluate(() => (window as unknown as HandsWindow).hands.allow());
  await panel.getByRole('button', { name: 'Use instruments' }).click();
  await expect(panel.getByRole('combobox', { name: 'Instrument' })).toBeVisible();
  await panel.getByRole('combobox', { name: 'Command for a key' }).fill('Random pick');
  await page.keyboard.press('Enter');
  await panel.getByRole('button', { name: 'Learn' }).click();
  await midi(0xb0, 20, 127);
  await expect(panel.getByRole('button', { name: 'Forget Controller 20' })).toBeVisible();
  await page.keyboard.press('Escape');
  await openFirst('winch pawl');
  const before = page.url();
  await midi(0xb0, 20, 0);
  await midi(0xb0, 20, 127);
  await expect.poll(() => page.url()).not.toBe(before);
  await hush(page);
  await page.getByRole('link', { name: 'Deliver', exact: true }).click();
  await expect(page.getByRole('button', { name: /Save the mix/ })).toBeVisible();
  // The soft one first: what is left of it is nothing beside the other.
  const soft = await rendered(page, 48000, () => midi(0x90, 72, 40));
  await midi(0xb0, 123, 0);
  const strong = await rendered(page, 48000, () => midi(0x90, 72, 127));
  await midi(0x80, 72, 0);
  const most = (planes: number[][]) => Math.max(...planes[0].map(Math.abs));
  expect(most(soft)).toBeGreaterThan(0);
  expect(most(soft) / most(strong)).toBeCloseTo((40 / 127) ** 2, 1);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
});

test('regions are kept by name, stepped through, drawn to where nothing clicks, and cut as sounds', async () => {
  await openFirst('foghorn harbor 03');
  await page.getByRole('button', { name: /^Regions/ }).click();
  const panel = page.getByRole('group', { name: 'Regions' });
  await choose(panel.getByRole('combobox', { name: 'Edges are drawn to' }), 'zero crossings');
  await page.keyboard.press('Escape');
  await dragOver(0.2, 0.4);
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toBeVisible();
  await page.getByRole('button', { name: /^Regions/ }).click();
  await panel.getByRole('textbox', { name: 'Name of the region', exact: true }).fill('swell');
  await panel.getByRole('button', { name: 'Keep this region' }).click();
  await expect(panel.getByRole('textbox', { name: /^Name of the region at/ })).toHaveValue('swell');
  await page.keyboard.press('Escape');
  const played = await rendered(page, 4800, () => page.keyboard.press('Space'));
  await hush(page);
  const region = () => page.getByRole('button', { name: /^Region .*clear$/ }).textContent();
  const first = await region();
  await dragOver(0.6, 0.7);
  await expect.poll(region).not.toBe(first);
  // What is dragged is a region once its edges are drawn; until then the key keeps nothing.
  await expect(async () => {
    await page.keyboard.press('Shift+i');
    await expect(page.getByRole('button', { name: 'Regions, 2 kept' })).toBeVisible({ timeout: 500 });
  }).toPass();
  const second = await region();
  await page.keyboard.press('[');
  await expect.poll(region).not.toBe(second);
  await hush(page);
  await page.keyboard.press('c');
  await expect(page.getByText(/, swell is a sound of its own now/).first()).toBeVisible();
  // The excerpt is found, is as long as its region, and is that part of the file to the ear.
  expect(await search(page, '"03, swell"')).toBe(1);
  await page.keyboard.press('ArrowDown');
  await expect(currentRow(page).first()).toContainText('swell');
  const alone = await rendered(page, 4800, () => page.keyboard.press('Space'));
  await hush(page);
  // In the middle of a sound playing begins with a ramp of 2 ms; an excerpt begins with its own first frame, here at a crossing.
  expect(Math.abs(alone[0][0] + alone[1][0])).toBeLessThan(0.03);
  alone.forEach((p, c) => expect(apart(p.slice(96), played[c].slice(96))).toBeLessThan(1e-6));
  await page.keyboard.press('Control+z');
  await expect.poll(() => search(page, '"03, swell"')).toBe(0);
});

test('the ruler scrubs; in between, what is heard is where the pointer is', async () => {
  await openFirst('foghorn harbor 04');
  const box = (await wave().boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height - 6);
  const heard = await rendered(page, 2400, () => page.mouse.down());
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height - 6, { steps: 8 });
  await page.mouse.up();
  expect(Math.max(...heard[0].map(Math.abs))).toBeGreaterThan(0.01);
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toHaveCount(0);
});

test('a small window searches, walks and plays by keyboard alone; a refusal is told', async () => {
  await search(page, 'winch');
  const opening = visit.context.waitForEvent('page');
  await page.keyboard.press('Shift+p');
  const small = await opening;
  const query = small.getByRole('textbox', { name: 'Query' });
  await expect(query).toBeFocused();
  await query.fill('foghorn harbor');
  const rows = small.getByRole('option');
  await expect(rows).toHaveCount(5);
  await small.keyboard.press('ArrowDown');
  await expect(small.getByRole('option', { selected: true })).toContainText('Foghorn');
  const heard = await rendered(page, 48000, () => small.keyboard.press('Enter'));
  expect(Math.max(...heard[0].map(Math.abs))).toBeGreaterThan(0.001);
  await small.keyboard.press('Enter');
  await small.keyboard.press('ArrowDown');
  await expect(rows.nth(1)).toHaveAttribute('aria-selected', 'true');
  await expect(currentRow(page).first()).toContainText('Foghorn');
  await small.keyboard.press('Control+Enter');
  await expect(page.getByRole('button', { name: /^Held for now/ })).toContainText('5');
  await page.keyboard.press('Control+z');
  const closed = small.waitForEvent('close');
  await query.fill('');
  // It may be gone before the key is said to be pressed.
  await query.press('Escape').catch(() => undefined);
  await closed;
  await page.evaluate(() => {
    const refuse = () => Promise.reject(new DOMException('Not now.', 'NotAllowedError'));
    Object.assign((window as unknown as { documentPictureInPicture: object }).documentPictureInPicture, {
      requestWindow: refuse,
    });
  });
  await page.getByRole('button', { name: 'Small window' }).click();
  await expect(page.getByText(/The small window could not be opened: Not now/).first()).toBeVisible();
});

test('a file that the desktop opens is heard and not added; one that is none says so', async () => {
  const all = await page.getByRole('button', { name: /^All libraries/ }).textContent();
  const bytes = writeWav([sine(440, 48000, 48000, 0.5)], { rate: 48000, bits: 16 });
  const open = (name: string, data: Uint8Array) =>
    page.evaluate(({ name, bytes }) => (window as unknown as HandsWindow).hands.openWith(name, bytes), {
      name,
      bytes: [...data],
    });
  const heard = await rendered(page, 4800, () => open('from <b>elsewhere</b>.wav', bytes));
  expect(crossings(heard[0], 48000)).toBeCloseTo(440, 0);
  const opened = page.getByRole('region', { name: 'Opened from elsewhere' });
  await expect(opened.getByText('from <b>elsewhere</b>.wav')).toBeVisible();
  await open('broken.wav', new Uint8Array(40));
  await expect(opened.getByRole('alert')).toContainText(
    /cannot be read: this is no sound file: it holds nothing but zeros/,
  );
  const nan = writeWav(
    [Float32Array.from({ length: 4800 }, (_, i) => (i % 7 === 0 ? NaN : i % 11 === 0 ? Infinity : 0.25))],
    {
      ...{ rate: 384000, bits: 32, float: true },
    },
  );
  const odd = await rendered(page, 256, () => open('odd.wav', nan));
  expect(odd[0].every((x) => Number.isFinite(x) && Math.abs(x) < 1)).toBe(true);
  await open('nothing.wav', writeWav([new Float32Array(0)], { rate: 48000, bits: 16 }));
  await open('one.wav', writeWav([new Float32Array([0.5])], { rate: 8000, bits: 16 }));
  const wide = Array.from({ length: 32 }, (_, c) => sine(100 + c, 48000, 4800, 0.02));
  const many = await rendered(page, 480, () => open('wide.wav', writeWav(wide, { rate: 48000, bits: 16 })));
  expect(Math.max(...many[0].map(Math.abs))).toBeGreaterThan(0.01);
  await opened.getByRole('button', { name: 'Close wide.wav' }).click();
  expect(await axeFaults(page)).toEqual([]);
  expect(await page.getByRole('button', { name: /^All libraries/ }).textContent()).toBe(all);
  const close = opened.getByRole('button', { name: /^Close/ });
  for (let left = await close.count(); left > 0; left--) {
    await close.first().press('Enter');
    await expect(close).toHaveCount(left - 1);
  }
});

test('sounds are taken away as FLAC under names by a pattern; a broken pattern is told', async () => {
  await openFirst('anchor chain 02');
  await page.keyboard.press('d');
  const dialog = page.getByRole('dialog', { name: 'Save as a file' });
  await choose(page.getByRole('combobox', { name: 'Format', exact: true }), 'FLAC, 24 bit');
  const names = dialog.getByRole('combobox', { name: 'Pattern of the names' });
  await names.fill('{library} {fxName');
  await expect(dialog.getByRole('alert')).toContainText(/At character 11: This brace is not closed/);
  await names.fill('{library} - {fxName}');
  await names.press('Tab');
  const file = await saved(page, () => dialog.getByRole('button', { name: 'Save' }).click());
  expect(file.name).toMatch(/^Tidewrack Audio - Anchor Chain.*02\.flac$/);
  const { format, labels } = await readAudioFile(memorySource(file.bytes));
  expect(format).toMatchObject({ container: 'FLAC', bits: 24 });
  expect(labels.get('vorbis.TITLE')).toContain('Anchor Chain');
});

test('diagnostics measure how soon sounds are heard, and are saved as a file', async () => {
  await openFirst('winch pawl');
  await page.getByRole('button', { name: 'How to listen' }).click();
  await page.getByRole('link', { name: 'How fast it is heard' }).click();
  await page.getByRole('button', { name: 'Measure on the listed sounds' }).click();
  await expect(page.getByRole('progressbar', { name: 'Measured' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Measure on the listed sounds' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('img', { name: /Milliseconds of each key/ })).toBeVisible();
  expect(await axeFaults(page)).toEqual([]);
  const { bytes } = await saved(page, () => page.getByRole('button', { name: 'Save as a file' }).click());
  const report = JSON.parse(new TextDecoder().decode(bytes)) as {
    latencies: { ms: number }[];
    output: { rate: number };
  };
  expect(report.output.rate).toBe(48000);
  expect(report.latencies.length).toBeGreaterThan(3);
  expect(report.latencies.every((l) => l.ms >= 0 && l.ms < 5000)).toBe(true);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
});

test('an output that refuses is told, and the next key tries again', async () => {
  await page.addInitScript(() => {
    const Real = AudioContext;
    let failing = true;
    Object.assign(window, { heal: () => (failing = false) });
    window.AudioContext = class extends Real {
      constructor(options?: AudioContextOptions) {
        if (failing) throw new DOMException('no device', 'NotSupportedError');
        super(options);
      }
    };
  });
  await page.reload();
  await openFirst('winch pawl 02');
  await page.keyboard.press('Space');
  await expect(
    page.getByText(/cannot be played: the audio output could not be opened \(no device\)/).first(),
  ).toBeVisible();
  await page.evaluate(() => (window as unknown as { heal(): void }).heal());
  const heard = await rendered(page, 24000, () => page.keyboard.press('Space'));
  expect(Math.max(...heard[0].map(Math.abs))).toBeGreaterThan(0.001);
});
