import { defineConfig } from '@playwright/test';
import { chromiumArgs, chromiumPath } from './scripts/browser';

const report = process.env.CORMORANT_REPORT;
/** Tests in which sound runs while it is looked at: a machine that starves it would be heard, so nothing runs beside them. */
const sounding = /\/(audition|curves|hands|lists|mix|path|performing|picture|scenes|spot)\.spec\.ts$/;

export default defineConfig({
  testDir: 'tests/e2e',
  globalSetup: './tests/helpers/first-visit.ts',
  // Machines differ; nothing here is meant to be a race.
  timeout: 240_000,
  expect: { timeout: 30_000 },
  workers: 1,
  fullyParallel: false,
  // What passes only when it is tried again is told at the end, by name.
  retries: process.env.CI ? 1 : 0,
  projects: [
    { name: 'quiet', testIgnore: sounding },
    { name: 'sounding', testMatch: sounding },
  ],
  reporter: report ? [['list'], ['json', { outputFile: report }]] : [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: chromiumPath, args: chromiumArgs },
    screenshot: 'only-on-failure',
  },
});
