import type { Voice } from './voice';

/** Seconds in which a key that is let go dies away: short enough to play with, long enough not to sound cut. */
export const LET_GO = 0.08;

interface Sounding {
  key: number;
  voice: Voice;
  /** Down, or held by the pedal. */
  held: boolean;
}

/** Sounds played by keys: many at once, up to a limit, beyond which the one that matters least gives way. */
export class Notes {
  /** In the order in which they began. */
  private sounding: Sounding[] = [];
  /** Cut short: they die away and no longer count. */
  private dying: Voice[] = [];
  /** Voices that sound at once. */
  limit = 32;

  /** A key goes down. The same key again, or one too many, cuts another short within five milliseconds. */
  on(key: number, voice: Voice): void {
    for (const s of this.sounding.filter((s) => s.key === key && s.held)) this.cut(s);
    while (this.sounding.length >= this.limit) this.cut(this.sounding.find((s) => !s.held) ?? this.sounding[0]);
    this.sounding.push({ key, voice, held: true });
  }

  /** A key goes up. */
  off(key: number): void {
    for (const s of this.sounding) {
      if (s.key !== key || !s.held) continue;
      s.held = false;
      s.voice.release(LET_GO);
    }
  }

  /** All of them die away. */
  end(): void {
    for (const s of [...this.sounding]) this.cut(s);
  }

  private cut(one: Sounding): void {
    one.voice.release();
    this.sounding.splice(this.sounding.indexOf(one), 1);
    if (!one.voice.done) this.dying.push(one.voice);
  }

  /** Whether any of them has begun to sound. */
  get begun(): boolean {
    return this.sounding.some(({ voice }) => voice.begun);
  }

  /** Keys whose sounds are heard. */
  get keys(): number[] {
    return this.sounding.map((s) => s.key);
  }

  /** Adds the next frames to a block. */
  render(out: Float32Array[], count: number): void {
    if (this.sounding.length + this.dying.length === 0) return;
    for (const voice of this.dying) voice.render(out, count);
    for (const { voice } of this.sounding) voice.render(out, count);
    // One that is to die and still waits for its audio has nothing to fade.
    this.dying = this.dying.filter((v) => !v.done && !v.waiting);
    this.sounding = this.sounding.filter(({ voice, held }) => !voice.done && (held || !voice.waiting));
  }
}
