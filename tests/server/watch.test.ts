import { createApp } from '@server/app';
import { rootFor } from '@server/roots';
import { RootWatcher } from '@server/watch';
import { mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { scratch } from '../helpers/programs';
import { served } from '../helpers/served';

/** Resolves with the next change that a watcher tells of. */
function nextChange(): { changed: () => void; next: () => Promise<void>; count: () => number } {
  let count = 0;
  let waiting: (() => void)[] = [];
  return {
    changed: () => {
      count++;
      waiting.splice(0).forEach((w) => w());
    },
    next: () => new Promise((done) => (waiting = [...waiting, done])),
    count: () => count,
  };
}

test('what is added, written, moved and removed is told of, in folders new and old, once after each burst', async () => {
  const folder = scratch();
  mkdirSync(join(folder, 'deck'));
  const told = nextChange();
  const watcher = new RootWatcher(rootFor(folder), told.changed);
  await watcher.start();
  const after = async (act: () => void) => {
    const next = told.next();
    act();
    await next;
  };
  await after(() => writeFileSync(join(folder, 'deck/a.wav'), 'a'));
  await after(() => mkdirSync(join(folder, 'new')));
  await after(() => {
    for (let i = 0; i < 20; i++) writeFileSync(join(folder, `new/${i}.wav`), 'x');
  });
  await after(() => renameSync(join(folder, 'new/3.wav'), join(folder, 'deck/3.wav')));
  await after(() => rmSync(join(folder, 'deck'), { recursive: true }));
  expect(told.count()).toBeLessThan(9);
  watcher.stop();
  const before = told.count();
  writeFileSync(join(folder, 'late.wav'), 'x');
  await new Promise((done) => setTimeout(done, 600));
  expect(told.count()).toBe(before);
}, 20_000);

test('the page is told over one stream which root changed', async () => {
  const [one, two] = [rootFor(scratch()), rootFor(scratch())];
  const { server, port } = await served(createApp({ pages: scratch(), roots: [one, two] }));
  const stop = new AbortController();
  const response = await fetch(`http://127.0.0.1:${port}/api/changes`, { signal: stop.signal });
  expect(response.headers.get('content-type')).toContain('text/event-stream');
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let said = '';
  const until = async (text: string) => {
    while (!said.includes(text)) said += (await reader.read()).value ?? '';
  };
  await until(': begun');
  writeFileSync(join(two.folder, 'a.wav'), 'x');
  await until(`data: {"id":"${two.id}"}`);
  expect(said).not.toContain(one.id);
  stop.abort();
  await new Promise((done) => server.close(done));
}, 20_000);
