import { expect } from '@playwright/test';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { launchIn } from '../../scripts/browser';
import { openSettled, startDemo, watchErrors } from './app';
import { visited, visitedAt } from './visited';

/** Takes the demo in once, as the first visit of a user does; tests that only use it go on from a copy of that visit. */
export default async function firstVisit(): Promise<void> {
  // While one works on tests, one visit serves many runs: CORMORANT_VISIT=kept.
  if (process.env.CORMORANT_VISIT === 'kept' && existsSync(visitedAt)) return;
  rmSync(visited, { recursive: true, force: true });
  mkdirSync(visited, { recursive: true });
  const server = await startDemo();
  const context = await launchIn(visited);
  try {
    const page = context.pages()[0] ?? (await context.newPage());
    const errors = watchErrors(page);
    await openSettled(page, server.url, 320, 280_000);
    expect(errors).toEqual([]);
    writeFileSync(visitedAt, new URL(server.url).port);
  } finally {
    await context.close();
    await server.stop();
  }
}
