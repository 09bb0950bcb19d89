import type { OpenAsk } from '@core/elsewhere';
import { validators, type OfferedFile, type OpenPage, type OpenService } from '@core/schemas';
import { sumOf } from '../files/sum';
import type { RootRecord } from '../store/store';
import { Elsewhere, Service } from './service';

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

/** Sounds of a page. */
const PAGE = 20;
/** An ask as the query of an address. @param page from 1 on */
function addressOf(ask: OpenAsk, page: number): string {
  const params = new URLSearchParams({ page: String(page), size: String(PAGE), order: ask.order });
  for (const word of ask.words) params.append('word', word);
  for (const word of ask.without) params.append('without', word);
  for (const code of ask.licences) params.append('licence', code);
  for (const name of ask.authors) params.append('author', name);
  for (const word of ask.by) params.append('by', word);
  if (ask.any) params.set('any', '1');
  if (ask.shortest !== undefined) params.set('shortest', String(ask.shortest));
  if (ask.longest !== undefined) params.set('longest', String(ask.longest));
  if (ask.like !== undefined) params.set('like', ask.like);
  return params.toString();
}

/** The commons by its protocol, see docs/services.md. */
export class Commons implements OpenSounds {
  private readonly service: Service;

  /** See {@link Service}. */
  constructor(base: string, waiting?: (seconds: number) => void, pause?: (seconds: number) => Promise<void>) {
    this.service = new Service(base, 'the commons', waiting, pause);
  }

  about(): Promise<OpenService> {
    return this.service.answer<OpenService>('v1/about', validators.openService);
  }

  find(ask: OpenAsk, page: number, signal: AbortSignal): Promise<OpenPage> {
    return this.service.answer<OpenPage>(`v1/sounds?${addressOf(ask, page)}`, validators.openPage, { signal });
  }

  async fetch(
    { href, size, sha256, name }: OfferedFile,
    told: (share: number) => void,
    signal: AbortSignal,
  ): Promise<Blob> {
    const response = await this.service.ask(href, { signal });
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
    if (here !== size || (await sumOf(blob)) !== sha256)
      throw new Elsewhere(`${name} is not the file that the commons tells of; nothing was kept. Fetch it again.`);
    return blob;
  }

  root(id: number): RootRecord {
    return { id, name: 'the commons', kind: 'server', base: this.service.base, added: 0 };
  }
}
