import { defineConfig } from '@playwright/test';
import { chromiumArgs, chromiumPath } from './scripts/browser';

const report = process.env.CORMORANT_REPORT;

export default defineConfig({
  testDir: 'tests/e2e',
  globalSetup: './tests/helpers/first-visit.ts',
  // Machines differ; nothing here is meant to be a race.
  timeout: 240_000,
  expect: { timeout: 30_000 },
  // One browser takes a core and a half: a second one beside it would only starve the sound of both.
  workers: 1,
  fullyParallel: false,
  // What passes only when it is tried again is told at the end, by name.
  retries: process.env.CI ? 1 : 0,
  reporter: report ? [['list'], ['json', { outputFile: report }]] : [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: { executablePath: chromiumPath, args: chromiumArgs },
    screenshot: 'only-on-failure',
  },
});
