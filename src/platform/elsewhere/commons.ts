import type { OpenAsk } from '@core/elsewhere';
import { checked, validators, type OfferedFile, type OpenPage, type OpenService, type Services } from '@core/schemas';
import type { RootRecord } from '../store/store';

/** A service of open sounds, whichever stands behind it. */
export interface OpenSounds {
  /** What it says of itself. */
  about(): Promise<OpenService>;
  /** A page of what an ask finds, from 1 on. @throws Elsewhere */
  find(ask: OpenAsk, page: number, signal: AbortSignal): Promise<OpenPage>;
  /** A file of it, whole, and checked by its sum. @param told how much of it is here. @throws Elsewhere */
  fetch(file: OfferedFile, told: (share: number) => void, signal: AbortSignal): Promise<Blob>;
  /** Where its files lie, for whoever plays them without keeping them. */
  root(id: number): RootRecord;
}

/** Something elsewhere cannot be had now; says why and what to do. */
export class Elsewhere extends Error {}

/** Sounds of a page. */
const PAGE = 20;
/** How often, and seconds for how long at the most, one waits where a service asks to. */
const [WAITS, LONGEST_WAIT] = [4, 30];

/** An ask as the query of an address. @param page from 1 on */
function addressOf(ask: OpenAsk, page: number): string {
  const params = new URLSearchParams({ page: String(page), size: String(PAGE), order: ask.order });
  for (const word of ask.words) params.append('word', word);
  for (const word of ask.without) params.append('without', word);
  for (const code of ask.licences) params.append('licence', code);
  for (const name of ask.authors) params.append('author', name);
  if (ask.any) params.set('any', '1');
  if (ask.shortest !== undefined) params.set('shortest', String(ask.shortest));
  if (ask.longest !== undefined) params.set('longest', String(ask.longest));
  if (ask.like !== undefined) params.set('like', ask.like);
  return params.toString();
}

const hex = (bytes: ArrayBuffer): string =>
  Array.from(new Uint8Array(bytes), (b) => b.toString(16).padStart(2, '0')).join('');

/** The commons by its protocol, see docs/services.md. */
export class Commons implements OpenSounds {
  /**
   * @param base its address, with a slash at the end
   * @param waiting told for how many seconds the commons asks to wait
   */
  constructor(
    private readonly base: string,
    private readonly waiting: (seconds: number) => void = () => undefined,
    private readonly pause = (seconds: number) => new Promise<void>((done) => setTimeout(done, seconds * 1000)),
  ) {}

  private async ask(path: string, signal?: AbortSignal): Promise<Response> {
    for (let turn = 0; ; turn++) {
      let response: Response;
      try {
        response = await fetch(this.base + path, { signal });
      } catch (error) {
        signal?.throwIfAborted();
        throw new Elsewhere('The commons cannot be reached. Is it offline? Your own library is all here.', {
          cause: error,
        });
      }
      if (response.status === 429 && turn < WAITS) {
        const seconds = Math.min(LONGEST_WAIT, Math.max(1, Number(response.headers.get('Retry-After')) || 1));
        this.waiting(seconds);
        await this.pause(seconds);
        this.waiting(0);
        signal?.throwIfAborted();
        continue;
      }
      if (response.ok) return response;
      const said = (await response.json().catch(() => undefined)) as { error?: unknown } | undefined;
      const why = typeof said?.error === 'string' ? said.error.slice(0, 300) : `It answered with ${response.status}.`;
      throw new Elsewhere(response.status === 429 ? 'The commons asks to wait. Ask again in a minute.' : why);
    }
  }

  /** What it answers, as it has to be. */
  private async answer(path: string, signal?: AbortSignal): Promise<unknown> {
    const response = await this.ask(path, signal);
    try {
      return await response.json();
    } catch (error) {
      signal?.throwIfAborted();
      throw new Elsewhere('The commons broke off, or answered with something that is no answer. Ask again.', {
        cause: error,
      });
    }
  }

  async about(): Promise<OpenService> {
    const about = (await this.answer('v1/about')) as { version?: unknown };
    if (typeof about.version === 'number' && about.version > 1)
      throw new Elsewhere('The commons is of a newer version than this Cormorant knows. Bring Cormorant up to date.');
    return checked<OpenService>(about, validators.openService, 'what the commons says of itself');
  }

  async find(ask: OpenAsk, page: number, signal: AbortSignal): Promise<OpenPage> {
    const found = await this.answer(`v1/sounds?${addressOf(ask, page)}`, signal);
    return checked<OpenPage>(found, validators.openPage, 'the answer of the commons');
  }

  async fetch(
    { href, size, sha256, name }: OfferedFile,
    told: (share: number) => void,
    signal: AbortSignal,
  ): Promise<Blob> {
    const response = await this.ask(href, signal);
    const parts: Uint8Array<ArrayBuffer>[] = [];
    let here = 0;
    const reader = response.body!.getReader();
    try {
      for (;;) {
        const { done, value } = await reader.read();
        if (done) break;
        here += value.length;
        // A service that sends more than it said is not listened to for ever.
        if (here > size) break;
        parts.push(value);
        told(here / size);
      }
    } catch (error) {
      signal.throwIfAborted();
      throw new Elsewhere(`${name} broke off on its way. Fetch it again.`, { cause: error });
    } finally {
      void reader.cancel().catch(() => undefined);
    }
    const blob = new Blob(parts);
    if (here !== size || hex(await crypto.subtle.digest('SHA-256', await blob.arrayBuffer())) !== sha256)
      throw new Elsewhere(`${name} is not the file that the commons tells of; nothing was kept. Fetch it again.`);
    return blob;
  }

  root(id: number): RootRecord {
    return { id, name: 'the commons', kind: 'server', base: this.base, added: 0 };
  }
}

/** The services that our own server knows of. */
export async function knownServices(): Promise<Services> {
  try {
    const response = await fetch('/api/services');
    return response.ok ? checked<Services>(await response.json(), validators.services, 'the list of services') : {};
  } catch {
    return {};
  }
}
