import { writeWav } from '@core/files';
import type { Sound } from '@core/library';
import { Random } from '@core/synth';
import { expect, test, type Page } from '@playwright/test';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openSettled, search, startOn, stored, watchErrors } from '../helpers/app';
import { scratch } from '../helpers/programs';

// Two windows on one library, as when a second one is opened beside the film.

const FILES = 6;
/** Edits and steps back of each; CORMORANT_ACTS=200 takes two minutes. */
const ACTS = Number(process.env.CORMORANT_ACTS ?? 50);

const rows = (page: Page) => page.getByRole('grid', { name: 'Sounds to label' }).getByRole('row');
const name = (page: Page) =>
  page.getByRole('complementary', { name: 'Labels' }).getByRole('textbox', { name: 'Name', exact: true });

/** Edits and takes back at random, as fast as the page lets it. @returns all texts that were ever given */
async function work(page: Page, prefix: string, seed: number): Promise<string[]> {
  const chance = new Random(seed);
  const given: string[] = [];
  for (let n = 0; n < ACTS; n++) {
    const what = chance.next();
    if (what < 0.25) await page.keyboard.press('Control+z');
    else if (what < 0.35) await page.keyboard.press('Control+Shift+z');
    else {
      const text = `${prefix}${String(n).padStart(4, '0')}`;
      given.push(text);
      await rows(page)
        .nth(1 + Math.floor(chance.next() * FILES))
        .getByRole('gridcell')
        .first()
        .click({ force: true });
      await expect(name(page)).toBeEditable();
      await name(page).fill(text, { force: true });
      await page.keyboard.press('Enter');
      await name(page).blur();
    }
  }
  return given;
}

test('two pages edit and take back at random at once: every value was given by somebody, and both find it', async ({
  context,
}) => {
  const top = join(scratch(), 'Taps');
  mkdirSync(top);
  for (let i = 0; i < FILES; i++) {
    const samples = Float32Array.from({ length: 4000 }, (_, k) => Math.sin(k * (0.1 + i / 20)) / (1 + k / 100));
    writeFileSync(join(top, `tap ${i}.wav`), writeWav([samples], { rate: 48000, bits: 16 }));
  }
  const server = await startOn(top);
  try {
    const pages = [await context.newPage(), await context.newPage()];
    const errors = pages.map(watchErrors);
    // Without sounds the application opens where they come in, with some where they are found.
    await pages[0].goto(server.url);
    await expect(pages[0]).toHaveURL(`${server.url}intake`);
    await openSettled(pages[0], server.url, FILES);
    await pages[0].goto(server.url);
    await expect(pages[0]).toHaveURL(`${server.url}find`);
    for (const page of pages) {
      await page.goto(`${server.url}label`);
      await expect(rows(page)).toHaveCount(1 + FILES);
    }
    const begun = (await stored<Sound>(pages[0], 'sounds')).map((s) => s.fields.fxName as string);
    const given = await Promise.all([work(pages[0], 'kip', 3), work(pages[1], 'zud', 4)]);
    // The last step back may still be on its way when the keys are done.
    await expect(async () => {
      const sounds = await stored<Sound>(pages[0], 'sounds');
      const kept = sounds.map((s) => s.fields.fxName as string);
      for (const text of kept) expect([...begun, ...given.flat()]).toContain(text);
      for (const page of pages) {
        for (const text of new Set(kept))
          expect(await search(page, `name:"${text}"`)).toBe(kept.filter((t) => t === text).length);
        expect(await search(page, 'name:kip*')).toBe(kept.filter((t) => t.startsWith('kip')).length);
        expect(await search(page, 'name:zud*')).toBe(kept.filter((t) => t.startsWith('zud')).length);
      }
    }).toPass({ timeout: 120_000 });
    expect(errors.flat()).toEqual([]);
  } finally {
    await server.stop();
  }
});
