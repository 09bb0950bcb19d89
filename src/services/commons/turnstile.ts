/** How often one may ask. */
export interface Pace {
  atOnce: number;
  perSecond: number;
}

/** Clients that are remembered; those that asked longest ago are forgotten first. */
const REMEMBERED = 1000;

/** Lets each client through so often and no oftener (a token bucket). */
export class Turnstile {
  private readonly free = new Map<string, { count: number; at: number }>();

  /** @param now milliseconds */
  constructor(
    private readonly pace: Pace,
    private readonly now: () => number = Date.now,
  ) {}

  /** Seconds that a client still has to wait; 0 where it is let through. */
  wait(client: string): number {
    const { atOnce, perSecond } = this.pace;
    const now = this.now();
    const own = this.free.get(client) ?? { count: atOnce, at: now };
    const count = Math.min(atOnce, own.count + ((now - own.at) / 1000) * perSecond);
    this.free.delete(client);
    this.free.set(client, { count: count < 1 ? count : count - 1, at: now });
    const oldest = this.free.keys().next().value;
    if (this.free.size > REMEMBERED && oldest !== undefined) this.free.delete(oldest);
    return count < 1 ? (1 - count) / perSecond : 0;
  }
}
