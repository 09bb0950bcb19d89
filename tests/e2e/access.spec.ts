import { expect, test, type Page } from '@playwright/test';
import { axeFaults, inTheme, rendered, saved, visitDemo, type Visit } from '../helpers/app';

let visit: Visit;
test.beforeEach(async () => {
  visit = await visitDemo();
});
test.afterEach(() => visit?.end());

/** Tabs until an element with this role and name has the focus. */
async function tabTo(page: Page, role: string, name: RegExp, most = 90): Promise<void> {
  for (let i = 0; i < most; i++) {
    await page.keyboard.press('Tab');
    const here = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null;
      const labelled =
        e?.getAttribute('aria-label') ??
        (e as HTMLInputElement | null)?.labels?.[0]?.textContent ??
        e?.textContent ??
        '';
      const implied = { A: 'link', BUTTON: 'button', INPUT: 'textbox', TEXTAREA: 'textbox' }[e?.tagName ?? ''];
      return { role: e?.getAttribute('role') ?? implied, name: labelled.trim() };
    });
    if (here.role === role && name.test(here.name)) return;
  }
  throw new Error(`Tab never reaches the ${role} ${name}`);
}

/** Goes to a stage through the list of commands. */
async function goTo(page: Page, stage: string): Promise<void> {
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('combobox', { name: 'Command' })).toBeFocused();
  await page.keyboard.type(`go to ${stage}`);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toHaveCount(0);
}

test('nothing serious stands in the way of assistive technology, in either theme', async () => {
  const { page, url, errors } = visit;
  for (const theme of ['dark', 'light']) {
    const check = async (where: string) =>
      expect({ where, faults: await axeFaults(page, inTheme(theme)) }).toEqual({ where, faults: [] });
    await page.goto(`${url}intake`);
    await expect(page.locator('html')).toHaveAttribute('data-theme', theme);
    await expect(page.getByRole('heading', { name: 'Folders in the library' })).toBeVisible();
    await expect(page.getByText('Up to date', { exact: true })).toHaveCount(5, { timeout: 30_000 });
    await expect(page.getByRole('progressbar')).toHaveCount(0);
    await check(`intake, ${theme}`);
    await page.goto(`${url}find?q=creak`);
    await page.getByRole('row', { name: /Pier plank creak 03/ }).click();
    await expect(page.getByRole('img', { name: /^Waveform/ })).toBeVisible();
    await check(`find, ${theme}`);
    await page.goto(`${url}find?q=creak (wood`);
    await expect(page.getByText('not closed')).toBeVisible();
    await check(`find with a fault, ${theme}`);
    await page.goto(`${url}find?q=nothingatall`);
    await expect(page.getByText('Nothing matches')).toBeVisible();
    await check(`find, empty, ${theme}`);
    await page.goto(`${url}label?q=pawl`);
    await page.getByRole('row', { name: /Pawl clack wet 01/ }).click();
    await page.getByRole('row', { name: /Pawl clack wet 03/ }).click({ modifiers: ['Shift'] });
    await expect(page.getByText(/Labels of [23] sounds/)).toBeVisible();
    await check(`label, ${theme}`);
    await page.goto(`${url}spot?frame=312`);
    await page
      .getByRole('button', { name: /Boot step.*anchor/ })
      .last()
      .click();
    await expect(page.getByRole('listbox', { name: 'Alternates' })).toBeVisible();
    await check(`spot, ${theme}`);
    await page.goto(`${url}deliver`);
    await expect(page.getByRole('button', { name: 'Save the mix' })).toBeVisible();
    await check(`deliver, ${theme}`);
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys of this screen' })).toBeVisible();
    await check(`keys, ${theme}`);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+Shift+l');
  }
  expect(errors).toEqual([]);
});

test('the whole path is walked by keyboard alone', async () => {
  const { page } = visit;
  await page.keyboard.press('/');
  await page.keyboard.type('winch pawl clack heavy');
  await expect(page.getByRole('row', { name: /^All the words 8$/ })).toBeVisible();
  const [left] = await rendered(page, 12000, () => page.keyboard.press('ArrowDown'));
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.1);
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('row', { selected: true })).toContainText('Heavy 02');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Space');
  await page.keyboard.press('i');
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /^Region .*clear$/ })).toHaveCount(0);
  await page.keyboard.press('t');
  await expect(page.getByRole('button', { name: /Held for now/ })).toContainText('5');

  await goTo(page, 'label');
  await expect(page.getByRole('complementary', { name: 'Labels' })).toContainText('Labels of one sound');
  await tabTo(page, 'textbox', /^Notes$/);
  await page.keyboard.type('Second tooth');
  await page.keyboard.press('Tab');
  await expect(page.getByRole('textbox', { name: 'Notes' })).toHaveValue('Second tooth');

  await goTo(page, 'spot');
  await expect(page.getByRole('timer', { name: 'Playhead' })).toBeVisible();
  await page.locator('body').evaluate(() => (document.activeElement as HTMLElement).blur());
  for (let i = 0; i < 13; i++) await page.keyboard.press('Shift+ArrowRight');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Enter');
  const cue = page.getByRole('group', { name: 'Cues on Winch' }).getByRole('button');
  await expect(cue).toHaveAttribute('aria-label', 'Winch Pawl Clack Heavy 02, anchor at 01:00:13:00');
  await page.keyboard.press('n');
  await expect(page.getByText('trying')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(cue).not.toHaveAttribute('aria-label', /Heavy 02/);

  await goTo(page, 'deliver');
  await expect(page.getByRole('button', { name: 'Save the mix' })).toBeVisible();
  await page.locator('body').evaluate(() => (document.activeElement as HTMLElement).blur());
  const mix = await saved(page, () => page.keyboard.press('Enter'));
  expect(mix.bytes.length).toBeGreaterThan(40 * 48000 * 6);
});
