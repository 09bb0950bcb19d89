import 'fake-indexeddb/auto';
import type { Pull, Sound } from '@core/library';
import { Store } from '@platform/store/store';
import { gunzipSync, gzipSync } from 'node:zlib';
import { createXXHash3 } from 'hash-wasm';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { cpuClock } from '../helpers/cpu';
import { Desk, raw } from '../helpers/desk';
import { examples } from '../helpers/records';

const desk = new Desk();
const silent = () => undefined;
beforeAll(likeABrowser);
beforeEach(() => desk.fresh());
afterEach(() => desk.close());

describe('backups', () => {
  async function fill(): Promise<void> {
    await desk.take(raw(5, 'a.wav', { notes: 'n\n', keywords: ['a'], tags: [30] }), raw(6, 'b.wav'));
    await desk.put('Make', [
      { table: 'tags', id: 30, after: { id: 30, name: '🔧' } },
      { table: 'stamps', id: 3, after: { id: 3, name: 'Yard', values: { library: 'Y' } } },
      { table: 'roots', id: 2, after: { id: 2, name: 'Root', kind: 'picked', added: 1, handles: [] } },
    ]);
  }
  const everything = async () => {
    const store = new Store();
    await store.open();
    const rows = await Promise.all(['sounds', 'tags', 'stamps', 'pulls'].map((t) => store.table(t).toArray()));
    store.close();
    return rows;
  };

  test('bring an empty catalogue back to the last field', async () => {
    await fill();
    const before = await everything();
    const backup = await desk.labeller.writeBackup(silent);
    emptyStore();
    await desk.start();
    const facts = await desk.labeller.readBackup(backup, silent);
    expect(facts.tables.find((t) => t.table === 'sounds')).toEqual({
      table: 'sounds',
      added: 2,
      changed: 0,
      same: 0,
      onlyHere: 0,
    });
    await desk.labeller.restore(
      facts.tables.map((t) => t.table),
      false,
      'Restore',
      silent,
    );
    expect(await everything()).toEqual(before);
    expect([...(await desk.catalogue.ids({ text: 'tag:🔧 OR notes:n' }))].length).toBeGreaterThan(0);
    // New records do not get the ids of restored ones.
    expect((await desk.catalogue.newIds('tags', 1))[0]).toBeGreaterThan(30);
  });

  test('bring parts back, leave the others, and can be taken back', async () => {
    await fill();
    const backup = await desk.labeller.writeBackup(silent);
    await desk.labeller.putTexts([{ id: 5, texts: { notes: 'changed' } }], 'Type', true);
    await desk.put('Delete', [{ table: 'stamps', id: 3, before: { id: 3, name: 'Yard', values: { library: 'Y' } } }]);
    const facts = await desk.labeller.readBackup(backup, silent);
    expect(facts.tables.find((t) => t.table === 'sounds')).toMatchObject({ changed: 1, same: 1 });
    await desk.labeller.restore(['stamps'], false, 'Restore stamps', silent);
    expect(await desk.catalogue.all('stamps')).toHaveLength(1);
    expect((await desk.fields(5)).notes).toBe('changed');
    await desk.labeller.restore(['sounds'], false, 'Restore sounds', silent);
    expect((await desk.fields(5)).notes).toBe('n\n');
    await desk.catalogue.undo();
    expect((await desk.fields(5)).notes).toBe('changed');
  });

  /** The same backup with other lines, counted and signed anew: right envelope, wrong letter. */
  async function resigned(backup: Blob, change: (lines: string[]) => string[]): Promise<Blob> {
    const text = gunzipSync(new Uint8Array(await backup.arrayBuffer())).toString('utf8');
    const lines = change(text.trimEnd().split('\n').slice(0, -1));
    const body = lines.map((l) => `${l}\n`).join('');
    const hash = await createXXHash3();
    const end = JSON.stringify({ end: true, lines: lines.length, checksum: hash.init().update(body).digest('hex') });
    return new Blob([new Uint8Array(gzipSync(`${body}${end}\n`))]);
  }

  test('of the time when tracks were listed in their scenes bring scenes, tracks and cues', async () => {
    await fill();
    const { id: soundId } = raw(5, 'a.wav');
    const old = await resigned(await desk.labeller.writeBackup(silent), (lines) => [
      lines[0].replace(/"version":\d+/, '"version":2'),
      ...lines.slice(1),
      JSON.stringify({
        table: 'scenes',
        record: {
          ...(examples.scenes as object),
          tracks: ['Steps', 'Water'].map((name, i) => ({ id: i + 1, name, gain: -i, mute: false, solo: i === 0 })),
        },
      }),
      JSON.stringify({ table: 'cues', record: { ...(examples.cues as object), trackId: 2, soundId } }),
    ]);
    const { leftOut } = await desk.labeller.readBackup(old, silent);
    expect(leftOut.reasons).toEqual([]);
    await desk.labeller.restore(['scenes', 'tracks', 'cues'], false, 'Restore', silent);
    const tracks = (await desk.catalogue.all('tracks')) as { id: number; name: string; order: number }[];
    expect(tracks.map((t) => [t.order, t.name])).toEqual([
      [0, 'Steps'],
      [1, 'Water'],
    ]);
    expect(await desk.catalogue.all('cues')).toMatchObject([{ trackId: tracks[1].id }]);
    expect(Object.keys((await desk.catalogue.all('scenes'))[0] as object)).not.toContain('tracks');
  });

  test('with right checksums and wrong records leave those out, say why, and bring back the others', async () => {
    await fill();
    const backup = await desk.labeller.writeBackup(silent);
    const line = (table: string, record: unknown) => JSON.stringify({ table, record });
    const wrong = await resigned(backup, (lines) => [
      ...lines,
      line('tags', { id: 90 }),
      line('tags', { id: 2 ** 53, name: 'far' }),
      line('sounds', { ...raw(91, 'x.wav'), fields: null }),
      line('sounds', { ...raw(92, 'y.wav'), rootId: 777 }),
      line('cues', { ...(examples.cues as object), id: 93, soundId: 555 }),
      line('pulls', { id: 94, name: 'Half there', soundIds: [5, 4444], created: 1 }),
      '{"table":"tags","record":{"id":95,"name":"ok","__proto__":{"polluted":true}}}',
      '{"table":"tags"}',
      'null',
    ]);
    emptyStore();
    await desk.start();
    const { leftOut } = await desk.labeller.readBackup(wrong, silent);
    expect(leftOut.count).toBe(8);
    expect(leftOut.reasons.join('\n')).toMatch(/line \d+: \(tags 90\): the whole must have required property 'name'/);
    expect(leftOut.reasons.join('\n')).toMatch(/rootId refers to roots 777, which is not there/);
    await desk.labeller.restore(['roots', 'sounds', 'tags', 'pulls', 'cues', 'stamps'], false, 'Restore', silent);
    expect((await desk.catalogue.soundsOf(2)).map((s) => s.id).sort()).toEqual([5, 6]);
    expect(((await desk.catalogue.all('pulls')) as Pull[]).find((p) => p.id === 94)!.soundIds).toEqual([5]);
    expect(((await desk.catalogue.all('tags')) as { id: number }[]).some((t) => t.id > 80)).toBe(false);
    expect(({} as Record<string, unknown>).polluted).toBeUndefined();
    // The catalogue opens as ever.
    await desk.start();
    expect(await desk.catalogue.setAside()).toEqual([]);
  });

  test('hold one instant, whatever is edited while they are written', async () => {
    const many = Array.from({ length: 6000 }, (_, i) => raw(100 + i, `s${i}.wav`, { notes: 'before' }));
    await desk.take(...many);
    let edited: Promise<unknown> | undefined;
    const backup = await desk.labeller.writeBackup((share) => {
      // In the middle of it, everything is changed.
      if (share > 0.5 && !edited)
        edited = desk.labeller.runRecipe(
          { name: 'After', steps: [{ kind: 'set', on: true, to: 'notes', text: 'after' }] },
          many.map((s) => s.id),
          true,
          silent,
        );
    });
    await edited;
    const text = gunzipSync(new Uint8Array(await backup.arrayBuffer())).toString('utf8');
    const notes = new Map<number, string>();
    for (const l of text.trimEnd().split('\n')) {
      const { table, record } = JSON.parse(l) as { table?: string; record?: Sound };
      if (table === 'sounds' && record) notes.set(record.id, record.fields.notes as string);
    }
    expect(notes.size).toBe(6000);
    expect(new Set(notes.values()).size).toBe(1);
  });

  test('of one endless line, or that unpack beyond all measure, are refused and not waited for', async () => {
    const long = gzipSync(Buffer.alloc(80 << 20, 'x'));
    const taken = cpuClock();
    await expect(desk.labeller.readBackup(new Blob([new Uint8Array(long)]), silent)).rejects.toThrow(
      /longer than 64 MB\. Nothing was changed/,
    );
    expect(taken()).toBeLessThan(10_000);
  });

  test('that are cut off, altered, newer or something else are refused whole', async () => {
    await fill();
    const bytes = new Uint8Array(await (await desk.labeller.writeBackup(silent)).arrayBuffer());
    const text = gunzipSync(bytes).toString('utf8');
    const again = (t: string) => new Blob([new Uint8Array(gzipSync(t))]);
    const before = await everything();
    const cases: [Blob, RegExp][] = [
      [new Blob([bytes.slice(0, bytes.length >> 1)]), /cannot be used/],
      [again(text.split('\n').slice(0, -2).join('\n') + '\n'), /cut off/],
      [again(text.replace('Yard', 'Yord')), /altered/],
      [again(text.replace(/"version":\d+/, '"version":9')), /newer version \(9/],
      [again(text.replace('"table":"tags"', '"table":"nosuch"')), /altered/],
      [new Blob(['plain text']), /cannot be used/],
      [again('{"format":"other","version":1}\n'), /the head is not as expected/],
      [again(`${text}{"table":"tags","record":{"id":1}}\n`), /behind its end/],
    ];
    for (const [file, message] of cases) await expect(desk.labeller.readBackup(file, silent)).rejects.toThrow(message);
    for (const [file] of cases)
      await expect(desk.labeller.readBackup(file, silent)).rejects.toThrow(/Nothing was changed/);
    expect(await everything()).toEqual(before);
  });
});
