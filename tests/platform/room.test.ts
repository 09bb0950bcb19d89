import { looked } from '@platform/store/disk';
import { inOurWords, NoRoom } from '@platform/store/room';
import { likeABrowser } from '../helpers/browser';

beforeAll(likeABrowser);

describe('no room', () => {
  test.each([
    ['QuotaExceededError', 'Encountered full disk while opening backing store for indexedDB.open.'],
    ['QuotaExceededError', 'The current transaction exceeded its quota limitations.'],
    ['AbortError', 'QuotaExceededError: Failed to write'],
    ['UnknownError', 'no space left on device'],
    ['DatabaseClosedError', 'Database has been closed'],
  ])('a browser that finds none is heard in our words: %s %s', (name, message) => {
    expect(inOurWords(Object.assign(new Error(message), { name })).message).toMatch(
      /^the (disk has not enough room|browser closed its database).* try again/i,
    );
  });

  test.each([new NoRoom(1, 2), new TypeError('disk')])('%s stays as it is', (error) =>
    expect(inOurWords(error)).toBe(error),
  );
});

describe('the browser’s disk', () => {
  /** A private file system with so much room, or none at all. */
  function system(free: number, refused?: string) {
    let size = 0;
    class Handle {
      createSyncAccessHandle() {
        if (refused) return Promise.reject(Object.assign(new Error('refused'), { name: refused }));
        return Promise.resolve({
          getSize: () => size,
          write: (part: Uint8Array, { at }: { at: number }) => {
            const now = Math.min(part.length, free - at);
            size = at + now;
            return now;
          },
          truncate: (to: number) => (size = to),
          close: () => undefined,
        });
      }
    }
    Object.assign(globalThis, { FileSystemFileHandle: Handle });
    const directory = {
      getFileHandle: () => Promise.resolve(new Handle()),
      removeEntry: () => Promise.reject(new Error('there is none')),
    };
    Object.defineProperty(navigator, 'storage', {
      value: { getDirectory: () => Promise.resolve(directory) },
      configurable: true,
    });
    return { kept: () => size };
  }
  afterEach(() => {
    Reflect.deleteProperty(navigator, 'storage');
    Reflect.deleteProperty(globalThis, 'FileSystemFileHandle');
  });

  test('is measured by writing, to the byte; some of it is set aside, and let go of where it is full', async () => {
    const { kept } = system(5_000_000);
    for (let i = 0; i < 2; i++) {
      expect(await looked.probe(3_500_000, 1_500_000)).toBe(3_500_000);
      expect(kept()).toBe(1_500_000);
    }
    expect(await looked.probe(9_000_000, 1_500_000)).toBe(5_000_000);
    expect(kept()).toBe(0);
  });

  test('that may not be written to at all keeps nobody from working; one that is full does', async () => {
    system(0, 'SecurityError');
    expect(await looked.probe(100, 50)).toBe(100);
    system(0, 'QuotaExceededError');
    expect(await looked.probe(100, 50)).toBe(0);
  });
});
