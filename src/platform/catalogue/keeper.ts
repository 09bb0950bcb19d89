import {
  identify,
  identityIn,
  lossOf,
  newestOf,
  storedIdentity,
  type Identity,
  type Loss,
  type Memory,
} from '../store/identity';
import type { Store } from '../store/store';

/** Between two times that the catalogue is remembered outside of its database. Milliseconds. */
const REMEMBER = 2000;

/** Remembers outside of the database which one it is and how far it had come, and notices when it is another. */
export class Keeper {
  /** How the catalogue is known. */
  identity: Identity = { store: '', revision: 0, sounds: 0, at: 0 };
  /** What became of the library that was here, if nobody accepted that yet. */
  loss: Loss | undefined;
  private waiting: ReturnType<typeof setTimeout> | undefined;

  /** @param size how many sounds there are now */
  constructor(
    private readonly store: Store,
    private readonly memory: Memory | undefined,
    private readonly size: () => number,
  ) {}

  /** Compares the opened database with what is remembered. @param remembered what the window remembers */
  async open(remembered: string | undefined): Promise<void> {
    const was = newestOf([await this.memory?.read(), identityIn(remembered)]);
    this.loss = lossOf(was, await storedIdentity(this.store));
    await identify(this.store);
  }

  /** Looks again at a database that was closed and opened. @returns whether it is another, or went back */
  async again(): Promise<boolean> {
    this.loss ??= lossOf(this.identity, await storedIdentity(this.store));
    await identify(this.store);
    return this.loss !== undefined;
  }

  /** Takes the database for what it is now. */
  async settle(): Promise<void> {
    const { store = '', revision } = await storedIdentity(this.store);
    this.identity = { store, revision, sounds: this.size(), at: Date.now() };
    this.remember();
  }

  /** Not while a loss waits to be told: it would be forgotten that there was something. */
  remember(): void {
    if (this.loss) return;
    this.waiting ??= setTimeout(() => {
      this.waiting = undefined;
      this.identity = { ...this.identity, sounds: this.size(), at: Date.now() };
      void this.memory?.write(this.identity).catch(() => undefined);
    }, REMEMBER);
  }

  close(): void {
    clearTimeout(this.waiting);
  }
}
