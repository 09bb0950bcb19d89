import { log } from './exact';

/** A seeded source of chance (sfc32 by Chris Doty-Humphrey): the same seed gives the same numbers everywhere. */
export class Random {
  private a: number;
  private b: number;
  private c: number;
  private d = 1;

  constructor(seed: number) {
    this.a = seed | 0;
    this.b = Math.imul(seed, 0x9e3779b9) | 0;
    this.c = Math.imul(seed ^ 0x5bf03635, 0x85ebca6b) | 0;
    for (let i = 0; i < 12; i++) this.next();
  }

  /** Uniform in [0, 1). */
  next(): number {
    const t = (((this.a + this.b) | 0) + this.d) | 0;
    this.d = (this.d + 1) | 0;
    this.a = this.b ^ (this.b >>> 9);
    this.b = (this.c + (this.c << 3)) | 0;
    this.c = ((this.c << 21) | (this.c >>> 11)) + t;
    return (t >>> 0) / 4294967296;
  }

  /** Uniform between two numbers. */
  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }

  /** A factor around 1, at most `amount` away on either side. */
  vary(amount: number): number {
    return 1 + amount * (2 * this.next() - 1);
  }

  /** Uniform in [-1, 1): a sample of white noise. */
  noise(): number {
    return 2 * this.next() - 1;
  }

  /** The time to the next of events that come at `rate` a second on average. */
  wait(rate: number): number {
    return -log(1 - this.next()) / rate;
  }

  /** One of a list. */
  pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.next() * list.length)];
  }
}

/** A 32-bit seed from a text (FNV-1a). */
export function seedOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash >>> 0;
}
