import { writeWav } from '@core/files';
import { timecodeAt, type Cue, type Scene } from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { copyFileSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { choose, hush, rendered, startOn, stored, watchErrors, type Running } from '../helpers/app';
import { has, run, scratch } from '../helpers/programs';
import { sine } from '../helpers/signals';

// Pictures that nobody prepared: made by a program that is none of ours, shown at their frames, heard with their own sound.

test.describe.configure({ mode: 'serial', timeout: 90_000 });
test.skip(!has('ffmpeg'), 'ffmpeg is not here to make pictures');

const folder = scratch();
const at = (name: string) => join(folder, name);
/** Frames a second, and the frame on which it flashes and clicks. */
const [FPS, FLASH] = [25, 50];
const [RATE, CLICK] = [48_000, (FLASH / FPS) * 48_000];

let server: Running;
let page: Page;
let errors: string[];

/** A picture that is black but for one white frame, with a click at that instant. */
function flashing(name: string, ...more: string[]): void {
  const shown = `color=c=black:s=320x180:r=${FPS}:d=8,drawbox=c=white:t=fill:enable='eq(n,${FLASH})'`;
  const sound = `aevalsrc='if(gte(n,${CLICK})*lt(n,${CLICK + 48}),0.9,0)':s=${RATE}:d=8`;
  run('ffmpeg', '-v', 'error', '-y', '-f', 'lavfi', '-i', shown, '-f', 'lavfi', '-i', sound, ...more, at(name));
}

test.beforeAll(async ({ browser }) => {
  const vp9 = ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-g', '10'];
  flashing('flash.webm', ...vp9, '-c:a', 'libopus', '-b:a', '128k');
  flashing(
    'slate.mov',
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-pix_fmt',
    'yuv420p',
    '-c:a',
    'pcm_s16le',
    '-timecode',
    '10:20:30:05',
  );
  // Every third frame of the second half is left out.
  const uneven = `testsrc=s=160x90:r=30:d=4,select='if(gt(n,60),not(eq(mod(n,3),0)),1)'`;
  run('ffmpeg', '-v', 'error', '-y', '-f', 'lavfi', '-i', uneven, '-fps_mode', 'vfr', ...vp9, at('uneven.webm'));
  run(
    'ffmpeg',
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc=s=161x91:r=50:d=1',
    ...vp9,
    '-pix_fmt',
    'yuv444p',
    at('odd size.webm'),
  );
  const large = ['-f', 'lavfi', '-i', 'testsrc2=s=7680x4320:r=25', '-frames:v', '10'];
  run('ffmpeg', '-v', 'error', '-y', ...large, '-c:v', 'libx264', '-preset', 'ultrafast', at('eight thousand.mp4'));
  const shots = ['smptebars', 'testsrc2', 'rgbtestsrc'].flatMap((of) => ['-f', 'lavfi', '-i', `${of}=s=320x180:r=25`]);
  const joined = '[0]trim=end_frame=50[a];[1]trim=end_frame=50[b];[2]trim=end_frame=60[c];[a][b][c]concat=n=3';
  run('ffmpeg', '-v', 'error', '-y', ...shots, '-filter_complex', joined, ...vp9, at('shots.webm'));
  writeFileSync(at('tone.wav'), writeWav([sine(440, RATE, RATE)], { rate: RATE, bits: 16 }));
  copyFileSync(at('tone.wav'), at('sound called.mp4'));
  writeFileSync(at('torn.webm'), readFileSync(at('flash.webm')).subarray(0, 60));
  server = await startOn(folder);
  page = await browser.newPage();
  page.setDefaultTimeout(30_000);
  errors = watchErrors(page);
  await page.goto(`${server.url}intake`);
  await expect(page.getByText('Up to date', { exact: true })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('link', { name: 'Spot', exact: true }).click();
});
test.afterAll(async () => {
  await page?.close();
  await server?.stop();
});
test.afterEach(() => expect(errors).toEqual([]));

const scene = async (): Promise<Scene> => (await stored<Scene>(page, 'scenes'))[0];
const playhead = () => page.getByRole('timer', { name: 'Playhead' });
const video = () => page.getByLabel(/^Picture of /);
const panel = () => page.getByRole('button', { name: 'Picture …' });
async function take(name: string): Promise<void> {
  await panel().click();
  await page.getByRole('combobox', { name: 'A video of the library’s folders' }).click();
  await page.getByTitle(name).last().click();
  await page.keyboard.press('Escape');
}
/** How bright the picture is that is on screen, 0 to 255. */
const brightness = () =>
  video().evaluate((v) => {
    const canvas = new OffscreenCanvas(8, 8);
    const paper = canvas.getContext('2d')!;
    paper.drawImage(v as HTMLVideoElement, 0, 0, 8, 8);
    return paper.getImageData(4, 4, 1, 1).data[0];
  });
async function to(frame: number): Promise<void> {
  await page.keyboard.press('Home');
  for (let s = 0; s < Math.floor(frame / FPS); s++) await page.keyboard.press('Shift+ArrowRight');
  for (let f = 0; f < frame % FPS; f++) await page.keyboard.press('.');
  await expect(page.getByText(new RegExp(`^frame ${frame} `))).toBeVisible();
}

test('a scene is made without a picture, and takes one from a folder; every frame is the one that was asked for', async () => {
  await page.getByRole('button', { name: 'Make a scene' }).click();
  await expect(page.getByText('No picture yet')).toBeVisible();
  await take('flash.webm');
  await expect(video()).toBeVisible();
  await expect
    .poll(scene)
    .toMatchObject({ fps: '25', picture: { name: 'flash.webm', frames: 200, guide: { mute: true } } });
  for (const [frame, light] of [
    [FLASH - 1, false],
    [FLASH, true],
    [FLASH + 1, false],
  ] as const) {
    await to(frame);
    await expect.poll(brightness, { message: `frame ${frame}` })[light ? 'toBeGreaterThan' : 'toBeLessThan'](128);
  }
});

/** The sample of the scene at which its own sound clicks. */
async function clickOf(): Promise<number> {
  await panel().click();
  const own = page.getByRole('checkbox', { name: 'Hear its own sound' });
  if (!(await own.isChecked())) await own.click();
  await expect.poll(async () => (await scene()).picture!.guide!.mute).toBe(false);
  await page.keyboard.press('Escape');
  const from = ((FLASH - 10) / FPS) * RATE;
  // Once it has been decoded, it is heard where it belongs; until then it is said to be late.
  let click = -1;
  for (let tries = 0; tries < 10 && click < 0; tries++) {
    await to(FLASH - 10);
    const [left] = await rendered(page, RATE, () => page.keyboard.press('Space'));
    click = left.findIndex((v) => Math.abs(v) > 0.3);
    await hush(page);
  }
  return from + click;
}

test('its own sound clicks at the very sample of the flash', async () => {
  // WebM keeps times in whole milliseconds.
  expect(Math.abs((await clickOf()) - CLICK)).toBeLessThan(96);
  await take('slate.mov');
  await expect.poll(async () => (await scene()).picture?.name).toBe('slate.mov');
  expect(await clickOf()).toBe(CLICK);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await scene()).picture).toMatchObject({ name: 'flash.webm', guide: { mute: false } });
});

test('picture and sound stay within half a frame of each other, as diagnostics tell', async () => {
  test.setTimeout(120_000);
  await page.keyboard.press('Home');
  const told = async () => {
    await page.keyboard.press('Space');
    await page.waitForFunction(() => (document.querySelector('video')?.currentTime ?? 0) > 6);
    await hush(page);
    await page.keyboard.press('Control+k');
    await page.keyboard.type('diagnostics');
    await page.keyboard.press('Enter');
    const share = page.getByText('Within half a frame').locator('xpath=following-sibling::dd');
    await expect(share).toBeVisible();
    const percent = Number(/\d+/.exec((await share.textContent())!)![0]);
    await page.getByRole('link', { name: 'Spot', exact: true }).click();
    await page.keyboard.press('Home');
    return percent;
  };
  // A machine that is busy with other things shows frames late now and then.
  await expect.poll(told, { timeout: 110_000 }).toBeGreaterThanOrEqual(50);
});

test('it begins where one says, and its sound with it', async () => {
  await panel().click();
  await page.getByRole('spinbutton', { name: 'Frame of the scene at which the picture begins' }).fill('10');
  await expect.poll(async () => (await scene()).picture!.offset).toBe(10);
  await page.keyboard.press('Escape');
  await to(FLASH + 10);
  await expect.poll(brightness).toBeGreaterThan(128);
  await to(FLASH + 9);
  await expect.poll(brightness).toBeLessThan(128);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await scene()).picture!.offset).toBeUndefined();
});

test('J, K and L run it at true speeds in both directions, with sound', async () => {
  await to(FLASH);
  await page.keyboard.press('l');
  await page.keyboard.press('l');
  await expect(page.getByText('2 times, forward')).toBeVisible();
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await expect(page.getByText('4 times, backward')).toBeVisible();
  // Backward it comes to the beginning, and stays there.
  await expect(playhead()).toHaveText('01:00:00:00');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await to(100);
  const [left] = await rendered(page, RATE * 2, () => page.keyboard.press('j'));
  const click = left.findLastIndex((v) => Math.abs(v) > 0.3);
  expect(Math.abs((100 / FPS) * RATE - click - CLICK)).toBeLessThan(96);
  await hush(page);
  await page.keyboard.press('Shift+L');
  await expect(page.getByText('0.5 times, forward')).toBeVisible();
  await hush(page);
});

test('a window of its own shows the same frame', async () => {
  await to(FLASH);
  await panel().click();
  const [own] = await Promise.all([
    page.waitForEvent('popup'),
    page.getByRole('button', { name: 'Show it in a window of its own' }).click(),
  ]);
  await page.keyboard.press('Escape');
  const second = own.getByLabel(/^Picture of /);
  await expect(second).toBeVisible();
  const middle = (FLASH + 0.5) / FPS;
  const apart = (from: number) => second.evaluate((v, at) => Math.abs((v as HTMLVideoElement).currentTime - at), from);
  await expect.poll(() => apart(middle)).toBeLessThan(0.4 / FPS);
  await page.keyboard.press('.');
  await expect.poll(() => apart(middle + 1 / FPS)).toBeLessThan(0.4 / FPS);
  await own.close();
});

test('start timecode, changing rates and odd sizes are those of the file', async () => {
  await take('slate.mov');
  await expect.poll(scene).toMatchObject({
    fps: '25',
    picture: { name: 'slate.mov', frames: 200 },
    startFrame: ((10 * 60 + 20) * 60 + 30) * 25 + 5,
  });
  await page.keyboard.press('Home');
  await expect(playhead()).toHaveText('10:20:30:05');
  await take('uneven.webm');
  await expect(page.getByText(/has a rate that changes/).first()).toBeVisible();
  await expect
    .poll(async () => (await scene()).picture?.variable)
    .toMatchObject({ least: expect.closeTo(15, -1), most: expect.closeTo(30, -1) });
  await take('odd size.webm');
  await expect.poll(scene).toMatchObject({ fps: '50', picture: { name: 'odd size.webm', frames: 50 } });
});

test('eight thousand samples across are shown whole, looked through and stepped as any', async () => {
  await take('eight thousand.mp4');
  await expect.poll(scene).toMatchObject({ picture: { name: 'eight thousand.mp4', frames: 10 } });
  const width = () => video().evaluate((v) => (v as HTMLVideoElement).videoWidth);
  await expect.poll(width, { timeout: 60_000 }).toBe(7680);
  await expect
    .poll(async () => (await scene()).cuts, { timeout: 60_000 })
    .toMatchObject({ of: expect.stringContaining('eight thousand.mp4'), found: [] });
  await to(7);
});

test('the cuts of the picture are found on their frames, kept with the scene, walked to and landed on', async () => {
  await take('shots.webm');
  await expect
    .poll(async () => (await scene()).cuts?.found.map((c) => [c.frame, c.kind]))
    .toEqual([
      [50, 'cut'],
      [100, 'cut'],
    ]);
  const marks = page.getByRole('group', { name: 'Events of the picture' }).getByRole('button');
  // Only cuts: what moves in the shots is no event.
  await panel().click();
  await page.getByRole('slider', { name: 'Movement that is an event, from strength' }).press('End');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Home');
  await page.keyboard.press('u');
  await expect(page.getByText(/^frame 50 /)).toBeVisible();
  await page.keyboard.press('u');
  await expect(page.getByText(/^frame 100 /)).toBeVisible();
  await page.keyboard.press('Shift+U');
  await expect(page.getByText(/^frame 50 /)).toBeVisible();
  await to(60);
  await page.getByRole('textbox', { name: 'Query for sounds to place' }).fill('tone');
  const row = page.getByRole('listbox', { name: 'Sounds to place' }).getByRole('option').first();
  await row.click();
  await choose(page.getByRole('combobox', { name: 'Where it lands' }), 'on the next cut');
  await page.getByRole('button', { name: 'Place it' }).click();
  await expect.poll(async () => (await stored<Cue>(page, 'cues')).map((c) => c.at)).toEqual([(100 / FPS) * RATE]);
  await page.keyboard.press('Control+z');
  await expect.poll(() => stored<Cue>(page, 'cues')).toHaveLength(0);
  // It is known when the scene is opened again, and moves with the picture.
  const { cuts } = await scene();
  await page.reload();
  await expect(marks).toHaveCount(2);
  await panel().click();
  await expect(page.getByText('2 cuts', { exact: true })).toBeVisible();
  await page.getByRole('spinbutton', { name: 'Frame of the scene at which the picture begins' }).fill('10');
  await page.keyboard.press('Escape');
  await expect(marks.first()).toHaveAccessibleName(`Cut at ${timecodeAt(await scene(), 60)}`);
  expect((await scene()).cuts).toEqual(cuts);
  await page.keyboard.press('Control+z');
});

test('what is no picture is refused in words, and what goes away is said to be gone and comes back', async () => {
  // Cuts are found in the background, whenever that is done.
  const known = async () => ({ ...(await scene()), cuts: undefined });
  const before = await known();
  await take('sound called.mp4');
  await expect(page.getByText(/sound called.mp4 (has no picture in it|is damaged, or no film)/).first()).toBeVisible();
  await take('torn.webm');
  await expect(
    page.getByText(/torn.webm (is damaged, or no film|has no picture in it|cannot be shown)/).first(),
  ).toBeVisible();
  expect(await known()).toEqual(before);
  await take('flash.webm');
  await expect.poll(async () => (await scene()).picture?.name).toBe('flash.webm');
  renameSync(at('flash.webm'), at('elsewhere.webm'));
  await page.reload();
  await expect(page.getByText('The picture cannot be shown')).toBeVisible();
  renameSync(at('elsewhere.webm'), at('flash.webm'));
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(video()).toBeVisible();
  await expect(page.getByText('The picture cannot be shown')).toBeHidden();
});
