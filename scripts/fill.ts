import type { Page } from '@playwright/test';

/** Puts sounds straight into the page's store, past intake: only labelling is measured here. */
export async function fill(page: Page, sounds: number): Promise<void> {
  await page.evaluate(async (total) => {
    const request = indexedDB.open('cormorant');
    const db = await new Promise<IDBDatabase>((done) => (request.onsuccess = () => done(request.result)));
    const things = ['winch', 'pawl', 'rudder', 'chain', 'rope', 'gate', 'oar', 'reed', 'mud', 'hull'];
    const doings = ['creak', 'clack', 'drag', 'slap', 'knock', 'rattle', 'call', 'thump'];
    for (let from = 0; from < total; from += 5000) {
      const t = db.transaction(['sounds', 'tags', 'counters'], 'readwrite');
      for (let i = from; i < from + 5000; i++) {
        const file = `${things[i % 10]}_${doings[(i >> 3) % 8]}-${i}.wav`;
        const folder = `Folder ${i % 400}`;
        const library = i < 10_000 ? 'First ten thousand' : 'Others';
        t.objectStore('sounds').put({
          id: i + 10,
          rootId: 2,
          path: `${folder}/${file}`,
          size: 1000,
          modified: 0,
          intakeId: 2,
          format: {
            container: 'WAV',
            encoding: 'pcm',
            unsigned: false,
            littleEndian: true,
            rate: 48000,
            channels: 2,
            bits: 24,
            blockAlign: 6,
            frames: 48000,
            dataOffset: 44,
          },
          fields: {
            fxName: `${things[i % 10]}_${doings[(i >> 3) % 8]} ${i}`,
            description: `${things[i % 10]} near the lock, take ${i}`,
            keywords: ['lock', things[i % 10]],
            tags: [2],
            file,
            folder,
            library,
            length: 1,
          },
          from: { fxName: 'name', file: 'name', folder: 'folder' },
          marks: { anchor: 0 },
          warnings: [],
        });
      }
      t.objectStore('tags').put({ id: 2, name: 'unsorted' });
      t.objectStore('counters').put({ name: 'tags', next: 3 });
      await new Promise((done) => (t.oncomplete = done));
    }
    db.close();
    // Rows that came past the catalogue are in no snapshot of its index.
    const files = await navigator.storage.getDirectory();
    await files.removeEntry('snapshots', { recursive: true }).catch(() => undefined);
  }, sounds);
}
