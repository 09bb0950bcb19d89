import {
  checked,
  validators,
  type FromHost,
  type HostAction,
  type HostState,
  type HostTransport,
  type ToHost,
} from '@core/schemas';
import { sumOf } from '../files/sum';
import { Elsewhere, Service } from './service';

/** How a connection stands. */
export type HostConnection = 'connecting' | 'connected' | 'gone' | 'newer';

/** What came of something that a session host was asked to do. */
export type HostAnswer = Omit<Extract<FromHost, { type: 'done' }>, 'type' | 'id'>;

/** What there is to hear from a session host. */
export interface HostEvents {
  connection(now: HostConnection): void;
  state(state: HostState): void;
  transport(transport: HostTransport): void;
  /** Something was let go of over one of its tracks. */
  wanted(track: number, at: number): void;
}

/** A running workstation, whichever stands behind it. */
export interface Workstation {
  connect(): void;
  close(): void;
  /** Sends a file, unless it is there already. @returns the sum by which it is known. @throws Elsewhere */
  send(file: Blob, signal?: AbortSignal): Promise<string>;
  /**
   * Has it do something, once: where the connection breaks it is asked again, and does nothing twice.
   * @param told why it has to be waited for; empty where it has not any more
   * @throws Elsewhere where it does not do it
   */
  act(action: HostAction, told?: (why: string) => void, signal?: AbortSignal): Promise<HostAnswer>;
  /** Tells others that something was let go of here. */
  want(track: number, at: number): void;
  /** Where it is, in samples, and whether it runs. @param now as in `performance.now`; undefined while that is not known */
  positionAt(now: number): { at: number; playing: boolean } | undefined;
}

/** The socket that is opened; a browser's own, or another of the same shape. */
type Opened = Pick<WebSocket, 'send' | 'close' | 'readyState' | 'addEventListener'>;

interface Ask {
  message: Extract<ToHost, { type: 'do' }>;
  told: (why: string) => void;
  done: (answer: HostAnswer) => void;
  failed: (error: Error) => void;
  /** When it was asked first. */
  since: number;
  retry?: ReturnType<typeof setTimeout>;
}

/** Milliseconds: until it is said that an answer is late, until one is not waited for any more, between asks of one that is busy, between two looks at its clock. */
const [LATE, LONGEST, BUSY, CLOCK] = [1500, 60_000, 700, 2000];
/** Milliseconds until a connection is tried again, and the most. */
const [AGAIN, LONG] = [400, 4000];
/** Looks at its clock of which the quickest counts. */
const LOOKS = 12;

/** A session host at an address. */
export class HostLink implements Workstation {
  private readonly service: Service;
  private socket: Opened | undefined;
  private readonly asks = new Map<string, Ask>();
  private timers: ReturnType<typeof setTimeout>[] = [];
  private beat: ReturnType<typeof setInterval> | undefined;
  private looks: { took: number; ahead: number }[] = [];
  private transport: HostTransport | undefined;
  private wait = AGAIN;
  private isClosed = true;

  /** @param base its address, with a slash at the end @param called who is here, as it is told */
  constructor(
    private readonly base: string,
    private readonly called: string,
    private readonly events: HostEvents,
    private readonly open: (url: string) => Opened = (url) => new WebSocket(url),
  ) {
    this.service = new Service(base, 'the session host');
  }

  connect(): void {
    if (!this.isClosed) return;
    this.isClosed = false;
    this.try();
  }

  close(): void {
    this.isClosed = true;
    this.socket?.close();
    this.socket = undefined;
    clearInterval(this.beat);
    for (const timer of this.timers) clearTimeout(timer);
    this.timers = [];
    for (const [id, ask] of this.asks) this.end(id, () => ask.failed(new Elsewhere('The session host was left.')));
  }

  private try(): void {
    this.events.connection('connecting');
    const socket = this.open(`${this.base.replace(/^http/, 'ws')}v1/session`);
    this.socket = socket;
    socket.addEventListener('open', () => {
      this.wait = AGAIN;
      this.looks = [];
      this.say({ type: 'hello', version: 1, name: this.called });
      for (let i = 0; i < 4; i++) this.look();
      clearInterval(this.beat);
      this.beat = setInterval(() => this.look(), CLOCK);
      // What was on its way when the connection broke is asked again under the same name: it is done once.
      for (const { message } of this.asks.values()) this.say(message);
    });
    socket.addEventListener('message', ({ data }) => {
      if (this.socket === socket) this.take(socket, String(data));
    });
    socket.addEventListener('error', () => undefined);
    socket.addEventListener('close', () => {
      if (this.socket !== socket) return;
      clearInterval(this.beat);
      this.transport = undefined;
      if (this.isClosed) return;
      this.events.connection('gone');
      for (const ask of this.asks.values()) ask.told('The session host is gone; it is asked again when it is back.');
      this.later(() => !this.isClosed && this.try(), this.wait);
      this.wait = Math.min(LONG, this.wait * 1.6);
    });
  }

  private later(task: () => void, after: number): ReturnType<typeof setTimeout> {
    const timer = setTimeout(() => {
      this.timers = this.timers.filter((t) => t !== timer);
      task();
    }, after);
    this.timers.push(timer);
    return timer;
  }

  private say(message: ToHost): boolean {
    if (this.socket?.readyState !== 1) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }

  private look = (): void => void this.say({ type: 'ping', sent: performance.now() });

  private take(socket: Opened, text: string): void {
    let message: FromHost;
    try {
      const value = JSON.parse(text) as { version?: unknown };
      if (typeof value.version === 'number' && value.version > 1) {
        this.isClosed = true;
        socket.close();
        return this.events.connection('newer');
      }
      message = checked<FromHost>(value, validators.fromHost, 'what the session host says');
      if (message.type === 'state')
        checked(message.state, validators.hostState, 'what the session host says of itself');
    } catch (error) {
      // Somebody else may be there; it is tried again all the same.
      for (const [id, ask] of this.asks) this.end(id, () => ask.failed(error as Error));
      return socket.close();
    }
    if (message.type === 'state') {
      this.events.connection('connected');
      this.events.state(message.state);
    } else if (message.type === 'transport') {
      this.transport = message.transport;
      this.events.transport(message.transport);
    } else if (message.type === 'want') this.events.wanted(message.track, message.at);
    else if (message.type === 'pong') {
      const now = performance.now();
      const took = now - message.sent;
      this.looks = [...this.looks.slice(1 - LOOKS), { took, ahead: message.time - (message.sent + now) / 2 }];
    } else this.answered(message);
  }

  private answered(message: Extract<FromHost, { type: 'done' | 'refused' }>): void {
    const ask = this.asks.get(message.id);
    if (!ask) return;
    if (message.type === 'done') {
      const { step, items, said } = message;
      const answer = { said, ...(step === undefined ? {} : { step }), ...(items ? { items } : {}) };
      return this.end(message.id, () => ask.done(answer));
    }
    if (message.why !== 'busy' || performance.now() - ask.since > LONGEST)
      return this.end(message.id, () => ask.failed(new Elsewhere(message.reason)));
    ask.told(`It is busy: ${message.reason} It is asked again.`);
    ask.retry = this.later(() => this.asks.has(message.id) && this.say(ask.message), BUSY);
  }

  private end(id: string, how: () => void): void {
    const ask = this.asks.get(id);
    this.asks.delete(id);
    clearTimeout(ask?.retry);
    ask?.told('');
    how();
  }

  act(action: HostAction, told: (why: string) => void = () => undefined, signal?: AbortSignal): Promise<HostAnswer> {
    return new Promise((done, failed) => {
      const id = crypto.randomUUID();
      const message = { type: 'do' as const, id, action };
      this.asks.set(id, { message, told, done, failed, since: performance.now() });
      if (!this.say(message)) told('The session host is gone; it is asked as soon as it is back.');
      this.later(() => {
        if (this.asks.has(id) && this.socket?.readyState === 1 && !this.asks.get(id)!.retry)
          told('It has not answered yet.');
      }, LATE);
      this.later(() => {
        const ask = this.asks.get(id);
        if (ask)
          this.end(id, () =>
            failed(new Elsewhere('The session host does not answer. Look there whether it was done.')),
          );
      }, LONGEST + BUSY);
      signal?.addEventListener('abort', () => this.asks.has(id) && this.end(id, () => failed(signal.reason as Error)));
    });
  }

  async send(file: Blob, signal?: AbortSignal): Promise<string> {
    const sum = await sumOf(file);
    const path = `v1/audio/${sum}`;
    const init = signal ? { signal } : {};
    const there = await fetch(this.base + path, { ...init, method: 'HEAD' }).catch(() => undefined);
    if (!there?.ok)
      await this.service.ask(path, { ...init, method: 'POST', body: file, headers: { 'Content-Type': 'audio/wav' } });
    return sum;
  }

  want(track: number, at: number): void {
    this.say({ type: 'want', track, at });
  }

  positionAt(now: number): { at: number; playing: boolean } | undefined {
    const rate = this.rate;
    if (!this.transport || this.looks.length === 0 || rate === undefined) return undefined;
    const { playing, at, time } = this.transport;
    // The look that took the shortest time tells best how far its clock is ahead.
    const { ahead } = this.looks.reduce((best, look) => (look.took < best.took ? look : best));
    return { playing, at: playing ? at + ((now + ahead - time) * rate) / 1000 : at };
  }

  /** Hz, as its state tells. */
  rate: number | undefined;
}
