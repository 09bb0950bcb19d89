import { expect, test, type Page } from '@playwright/test';
import { axeFaults, inTheme, rendered, search, stored, visitDemo, type Visit } from '../helpers/app';

// Anchors that nobody decided on are gone through, moved by hand, heard against a click, and accepted one by one or all at once.

interface Row {
  id: number;
  marks: { anchor: number };
  from: Record<string, string>;
  fields: Record<string, unknown>;
  format: { rate: number };
}
let visit: Visit;
let page: Page;
test.beforeAll(async () => {
  visit = await visitDemo();
  page = visit.page;
  await page.getByRole('link', { name: 'Label', exact: true }).click();
  await page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name: 'Anchors' }).click();
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(visit.errors.splice(0)).toEqual([]));

const list = () => page.getByRole('grid', { name: 'Anchors to decide on' });
const waiting = () => page.getByText(/^\d+ anchors? to decide on$/);
const left = async () => Number((await waiting().textContent())!.split(' ')[0]);
const of = async (name: string): Promise<Row> =>
  (await stored<Row>(page, 'sounds')).find((s) => String(s.fields.file).includes(name))!;

test('least sure first; what is moved is placed by hand, what is accepted a suggestion, and undo brings both back', async () => {
  expect(await search(page, 'pawlClack wet')).toBeGreaterThan(4);
  await expect.poll(left).toBeGreaterThan(4);
  const all = await left();
  const shown = await list()
    .getByTitle(/^\d+ % sure/)
    .evaluateAll((all: HTMLElement[]) =>
      all.map((e) => [Number(e.closest('[aria-rowindex]')!.getAttribute('aria-rowindex')), parseInt(e.title)]),
    );
  const values = shown.sort(([a], [b]) => a - b).map(([, sure]) => sure);
  expect(values.length).toBeGreaterThan(4);
  expect(values).toEqual([...values].sort((a, b) => a - b));
  const row = list().locator('[aria-rowindex="2"][data-sound]');
  await row.click();
  const id = await row.getAttribute('data-sound');
  const before = (await stored<Row>(page, 'sounds')).find((s) => s.id === Number(id))!;
  for (const key of ['ArrowRight', 'ArrowRight', 'Shift+ArrowLeft']) await page.keyboard.press(key);
  await expect(page.getByText('placed by hand')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect.poll(left).toBe(all - 1);
  const now = (await stored<Row>(page, 'sounds')).find((s) => s.id === before.id)!;
  expect(now.from.anchor).toBe('typed');
  expect(now.marks.anchor - before.marks.anchor).toBe(2 * Math.round(before.format.rate / 1000) - 1);
  await page.keyboard.press('Enter');
  await expect.poll(left).toBe(all - 2);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(left).toBe(all);
  expect((await of('pawlClack_wet')).from.anchor).toBeUndefined();
});

test('a move is heard against a click on the anchor', async () => {
  await search(page, 'pawlClack wet');
  await list().getByRole('row').nth(1).click();
  await page.keyboard.press('Space');
  const heard = await rendered(page, 48_000, () => page.keyboard.press('c'));
  const peak = Math.max(...heard[0].map(Math.abs));
  expect(peak).toBeGreaterThan(0.05);
  // Three times over: the same again after 0.7 s.
  const [first, second] = [heard[0].slice(0, 9600), heard[0].slice(33_600, 43_200)];
  const far =
    first.reduce((sum, x, i) => sum + Math.abs(x - second[i]), 0) / first.reduce((sum, x) => sum + Math.abs(x), 1e-9);
  expect(far).toBeLessThan(0.5);
});

test('all above a level at once, as one step', async () => {
  await search(page, '');
  await expect.poll(left).toBeGreaterThan(100);
  const all = await left();
  const accept = page.getByRole('button', { name: /^Accept \d+$/ });
  const count = Number((await accept.textContent())!.split(' ')[1]);
  expect(count).toBeGreaterThan(20);
  await accept.click();
  await expect.poll(left).toBe(all - count);
  expect((await stored<Row>(page, 'sounds')).filter((s) => s.from.anchor === 'suggested')).toHaveLength(count);
  await page.keyboard.press('Control+z');
  await expect.poll(left).toBe(all);
  for (const theme of ['dark', 'light']) {
    expect([theme, await axeFaults(page, inTheme(theme))]).toEqual([theme, []]);
    await page.keyboard.press('Control+Shift+l');
  }
});
