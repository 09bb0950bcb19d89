import { expect, test } from '@playwright/test';
import { readdirSync } from 'node:fs';
import { startOn, watchErrors } from '../helpers/app';
import { oddFolder } from '../helpers/foreign';

test('of ninety damaged and odd files every one ends as a sound or as a problem with its reason; the sum is right', async ({
  page,
}) => {
  const { folder, looked } = oddFolder();
  expect(looked).toBeGreaterThanOrEqual(80);
  expect(readdirSync(folder).length).toBeGreaterThanOrEqual(82);
  const server = await startOn(folder);
  try {
    const errors = watchErrors(page);
    await page.goto(`${server.url}intake`);
    await expect(page.getByText('Up to date', { exact: true })).toBeVisible({ timeout: 120_000 });
    const rows = await page.evaluate(async () => {
      const request = indexedDB.open('cormorant');
      const db = await new Promise<IDBDatabase>((done) => (request.onsuccess = () => done(request.result)));
      const all = <T>(table: string) =>
        new Promise<T[]>((done) => {
          const rows = db.transaction(table).objectStore(table).getAll();
          rows.onsuccess = () => done(rows.result as T[]);
        });
      const sounds = await all<{ path: string; id: number; fields: { truePeak?: number }; warnings: string[] }>(
        'sounds',
      );
      const problems = await all<{ path: string; reason: string }>('problems');
      const facts = await all<{ id: number }>('facts');
      db.close();
      return { sounds, problems, measured: facts.map((f) => f.id) };
    });
    const { sounds, problems } = rows;
    const paths = [
      ...sounds.map((s) => s.path),
      ...problems.filter((p) => !sounds.some((s) => s.path === p.path)).map((p) => p.path),
    ];
    expect([new Set(paths).size, paths.length]).toEqual([looked, looked]);
    expect(problems.filter((p) => p.reason.length < 12 || /undefined|null|NaN|\[object/.test(p.reason))).toEqual([]);
    // What could be taken in was measured, or says why it could not be.
    const unmeasured = sounds.filter((s) => !rows.measured.includes(s.id)).map((s) => s.path);
    expect(unmeasured.filter((path) => !problems.some((p) => p.path === path))).toEqual([]);
    // Damage is said, and does not become noise far above full scale.
    for (const s of sounds) expect(s.fields.truePeak ?? -99).toBeLessThan(6);
    for (const s of sounds.filter((x) => /^coded cut/.test(x.path)))
      expect([s.path, s.warnings.length]).not.toEqual([s.path, 0]);
    for (const kind of ['html', 'xml', 'text', 'zip', 'pdf', 'zeros'])
      for (const p of problems.filter((x) => x.path.startsWith(`${kind}.`))) expect(p.reason).toMatch(/no sound file/);
    expect(sounds.some((s) => s.path === 'good.wav')).toBe(true);
    await expect(page.getByRole('link', { name: /^Problems/ })).toContainText(String(problems.length));
    expect(errors).toEqual([]);
  } finally {
    await server.stop();
  }
});
