import { expect } from '@playwright/test';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { launchIn } from '../../scripts/browser';
import { openSettled, startDemo, watchErrors, type Running } from './app';
import { visited, visitedAt } from './visited';

/**
 * Starts the server on the demo for all tests that only use it, and takes it in once, as the first visit of a user does: they go on
 * from a copy of that visit.
 */
export default async function firstVisit(): Promise<() => Promise<void>> {
  // While one works on tests, one visit serves many runs: CORMORANT_VISIT=kept.
  const kept = process.env.CORMORANT_VISIT === 'kept' && existsSync(visitedAt);
  const server = await startDemo(kept ? readFileSync(visitedAt, 'utf8') : undefined);
  if (!kept) await takeIn(server);
  return server.stop;
}

async function takeIn(server: Running): Promise<void> {
  rmSync(visited, { recursive: true, force: true });
  mkdirSync(visited, { recursive: true });
  const context = await launchIn(visited);
  try {
    const page = context.pages()[0] ?? (await context.newPage());
    const errors = watchErrors(page);
    await openSettled(page, server.url, 323, 280_000);
    // The picture is looked through once for all.
    await page.getByRole('link', { name: 'Spot', exact: true }).click();
    await expect(page.getByRole('group', { name: 'Events of the picture' }).getByRole('button').first()).toBeVisible({
      timeout: 120_000,
    });
    expect(errors).toEqual([]);
    writeFileSync(visitedAt, new URL(server.url).port);
  } finally {
    await context.close();
  }
}
