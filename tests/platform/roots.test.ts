import type { ListedFile } from '@core/library';
import { FileGone, listFiles, openFile, type RootUnavailable, serverRoots } from '@platform/files/roots';
import type { RootRecord } from '@platform/store/store';
import { fileHandle, folderHandle, type Tree } from '../helpers/handles';

const bytes = Uint8Array.from({ length: 300 }, (_, i) => i & 255);
const tree: Tree = {
  'a.wav': bytes,
  '.hidden': bytes,
  'Deck gear': { 'b #1?.wav': bytes, deeper: { 'c.wav': bytes } },
};
const picked = (handles: RootRecord['handles']): RootRecord => ({
  id: 2,
  name: 'Tapes',
  kind: 'picked',
  handles,
  added: 0,
});
const served: RootRecord = { id: 3, name: 'Served', kind: 'server', serverId: 'abc', added: 0 };

/** Answers as a server would; remembers what was asked. */
function serve(answer: (url: string, init?: RequestInit) => Response | Promise<Response>): string[] {
  const asked: string[] = [];
  global.fetch = ((url: string, init?: RequestInit) => {
    asked.push(`${url} ${String((init?.headers as Record<string, string> | undefined)?.Range ?? '')}`.trim());
    return Promise.resolve().then(() => answer(url, init));
  }) as typeof fetch;
  return asked;
}
const fault = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    (e: Error) => e,
  );

async function all(root: RootRecord): Promise<ListedFile[]> {
  const files: ListedFile[] = [];
  for await (const batch of listFiles(root)) files.push(...batch.files);
  return files;
}

describe('a picked folder', () => {
  test('lists every file with its path, and opens each', async () => {
    const root = picked([folderHandle('Tapes', tree)]);
    const files = await all(root);
    expect(files.map((f) => f.path)).toEqual(['a.wav', 'Deck gear/b #1?.wav', 'Deck gear/deeper/c.wav']);
    expect(files[0]).toEqual({ path: 'a.wav', size: 300, modified: 1234 });
    const source = await openFile(root, 'Deck gear/deeper/c.wav', 300);
    expect(await source.read(10, 5)).toEqual(bytes.slice(10, 15));
    expect(await source.read(298, 50)).toEqual(bytes.slice(298));
  });

  test('dropped files stand beside each other', async () => {
    const root = picked([fileHandle('one.wav', bytes), fileHandle('two.wav', bytes.slice(0, 7))]);
    expect((await all(root)).map((f) => f.path)).toEqual(['one.wav', 'two.wav']);
    expect((await openFile(root, 'two.wav', 7)).size).toBe(7);
  });

  test('says what is gone, and whether a click could bring it back', async () => {
    const gone = await fault(openFile(picked([folderHandle('Tapes', tree)]), 'Deck gear/x.wav', 9));
    expect(gone).toBeInstanceOf(FileGone);
    expect(gone!.message).toBe('Deck gear/x.wav is not in “Tapes” any more.');
    const asking = (await fault(all(picked([folderHandle('Tapes', tree, 'prompt')])))) as RootUnavailable;
    expect([asking.name, asking.askAgain]).toEqual(['RootUnavailable', true]);
    const broken = picked([
      {
        ...folderHandle('Tapes', tree),
        entries: () => {
          throw new DOMException('gone', 'NotFoundError');
        },
      } as unknown as FileSystemDirectoryHandle,
    ]);
    expect((await fault(all(broken)))!.message).toMatch(/“Tapes” cannot be read any more. Is its drive connected/);
  });
});

describe('a served root', () => {
  test('reads ranges, with every sign of a path escaped', async () => {
    const asked = serve((_, init) => {
      const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init!.headers as Record<string, string>).Range)!;
      return new Response(bytes.slice(Number(from), Number(to) + 1), { status: 206 });
    });
    const source = await openFile(served, 'Deck gear/b #1? 100%.wav', 300);
    expect(await source.read(100, 50)).toEqual(bytes.slice(100, 150));
    expect(await source.read(290, 50)).toEqual(bytes.slice(290));
    expect(await source.read(300, 5)).toEqual(new Uint8Array(0));
    expect(asked).toEqual([
      '/roots/abc/Deck%20gear/b%20%231%3F%20100%25.wav bytes=100-149',
      '/roots/abc/Deck%20gear/b%20%231%3F%20100%25.wav bytes=290-299',
    ]);
  });

  test('takes the part it asked for from a server that gives the whole', async () => {
    serve(() => new Response(bytes.slice(), { status: 200 }));
    expect(await (await openFile(served, 'a.wav', 300)).read(20, 4)).toEqual(bytes.slice(20, 24));
  });

  test('passes on what the server says is wrong', async () => {
    serve(() => new Response(JSON.stringify({ error: 'The folder /x cannot be reached.' }), { status: 410 }));
    expect((await fault(all(served)))!.message).toBe('The folder /x cannot be reached.');
    serve(() => new Response('<html>', { status: 500 }));
    expect((await fault(serverRoots()))!.message).toBe('The server answered with 500.');
    serve(() => Promise.reject(new TypeError('refused')));
    expect((await fault(serverRoots()))!.message).toMatch(/does not answer. Start it again/);
  });

  test('refuses an answer that is not what was agreed', async () => {
    serve(() => new Response(JSON.stringify({ files: [{ path: 'a.wav', size: -1, modified: 0 }], problems: [] })));
    expect((await fault(all(served)))!.message).toMatch(/list of files is not as expected: \/files\/0\/size/);
    serve(() => new Response(JSON.stringify([{ id: 'a', name: 'b', folder: '/etc' }])));
    expect((await fault(serverRoots()))!.message).toMatch(/not as expected/);
  });
});
