import { checked, validators, type Services } from '@core/schemas';

/** Something elsewhere cannot be had now; says why and what to do. */
export class Elsewhere extends Error {
  override name = 'Elsewhere';

  /** @param status of HTTP, where it answered */
  constructor(
    message: string,
    options?: ErrorOptions,
    readonly status?: number,
  ) {
    super(message, options);
  }
}

/** How often, and seconds for how long at the most, one waits where a service asks to. */
const [WAITS, LONGEST_WAIT] = [4, 30];

/** A service at an address: asked with patience, and whatever comes of it said in words. */
export class Service {
  /**
   * @param base its address, with a slash at the end
   * @param called such as “the commons”
   * @param waiting told for how many seconds it asks to wait
   */
  constructor(
    readonly base: string,
    private readonly called: string,
    private readonly waiting: (seconds: number) => void = () => undefined,
    private readonly pause = (seconds: number) => new Promise<void>((done) => setTimeout(done, seconds * 1000)),
  ) {}

  private get Called(): string {
    return this.called[0].toUpperCase() + this.called.slice(1);
  }

  /** Asks once more where it is asked to wait. @throws Elsewhere */
  async ask(path: string, init: RequestInit = {}): Promise<Response> {
    for (let turn = 0; ; turn++) {
      let response: Response;
      try {
        response = await fetch(this.base + path, init);
      } catch (error) {
        init.signal?.throwIfAborted();
        throw new Elsewhere(`${this.Called} cannot be reached. Is it offline? Your own library is all here.`, {
          cause: error,
        });
      }
      if (response.status === 429 && turn < WAITS) {
        const seconds = Math.min(LONGEST_WAIT, Math.max(1, Number(response.headers.get('Retry-After')) || 1));
        this.waiting(seconds);
        await this.pause(seconds);
        this.waiting(0);
        init.signal?.throwIfAborted();
        continue;
      }
      if (response.ok) return response;
      const said = (await response.json().catch(() => undefined)) as { error?: unknown } | undefined;
      const why = typeof said?.error === 'string' ? said.error.slice(0, 300) : `It answered with ${response.status}.`;
      const words = response.status === 429 ? `${this.Called} asks to wait. Ask again in a minute.` : why;
      throw new Elsewhere(words, undefined, response.status);
    }
  }

  /** What it answers, as it has to be. @throws Elsewhere, or Error that says what of the answer is wrong */
  async answer<T>(path: string, validator: unknown, init?: RequestInit): Promise<T> {
    const response = await this.ask(path, init);
    let value: unknown;
    try {
      value = await response.json();
    } catch (error) {
      init?.signal?.throwIfAborted();
      throw new Elsewhere(`${this.Called} broke off, or answered with something that is no answer. Ask again.`, {
        cause: error,
      });
    }
    const { version } = (value ?? {}) as { version?: unknown };
    if (typeof version === 'number' && version > 1)
      throw new Elsewhere(
        `${this.Called} is of a newer version than this Cormorant knows. Bring Cormorant up to date.`,
      );
    return checked<T>(value, validator as never, `the answer of ${this.called}`);
  }
}

/** What is sent as JSON. */
export const posted = (body: BodyInit, headers: Record<string, string> = {}): RequestInit => ({
  ...{ method: 'POST', body, headers: { 'Content-Type': 'application/json', ...headers } },
});

/** The services that our own server knows of. */
export async function knownServices(): Promise<Services> {
  try {
    const response = await fetch('/api/services');
    return response.ok ? checked<Services>(await response.json(), validators.services, 'the list of services') : {};
  } catch {
    return {};
  }
}
