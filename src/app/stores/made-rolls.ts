import { madeOf, nameOfRoll, soundMade, suggested } from '@core/build';
import type { Facts } from '@core/audio';
import type { Sound } from '@core/library';
import type { Roll } from '@core/synth';
import { startMaker, type MadeAudio } from '@platform/index';
import { shallowReactive } from 'vue';
import { tell } from '../shell/notice';
import { useLoose } from './loose';

/** A sound that was made, as it can be heard. */
export interface MadeRoll {
  roll: Roll;
  sound: Sound;
  audio: Blob;
  facts: Facts;
  name: string;
}

/** Rolls that are made at the same time. */
const AT_ONCE = 2;
/** Sounds that are kept beside those that are listed. */
const KEPT = 40;

/** The same for the same sound. */
export const keyOf = ({ family, seed, values }: Roll): string => `${family} ${seed} ${JSON.stringify(values)}`;

/** Has workers make rolls, those that are wanted most first, and holds what they made so that it plays as any sound. */
export class RollMaker {
  private readonly loose = useLoose();
  private readonly workers: { maker: ReturnType<typeof startMaker>; busy: boolean }[] = [];
  private readonly doing = new Set<string>();
  /** In the order in which they were made. */
  readonly made = shallowReactive(new Map<string, MadeRoll>());
  private waiting: { key: string; done: () => void; fail: (error: Error) => void }[] = [];

  /** @param wanted the rolls that somebody looks at or may ask for next, those that are wanted most first */
  constructor(private readonly wanted: () => readonly Roll[]) {}

  /** Begins to make what is wanted and is not there yet. */
  go(): void {
    while (this.workers.length < AT_ONCE) this.workers.push({ maker: startMaker(), busy: false });
    for (const worker of this.workers) if (!worker.busy) void this.run(worker);
  }

  private next(): Roll | undefined {
    return this.wanted().find((r) => !this.made.has(keyOf(r)) && !this.doing.has(keyOf(r)));
  }

  private async run(worker: (typeof this.workers)[number]): Promise<void> {
    worker.busy = true;
    try {
      for (let roll = this.next(); roll && this.workers.includes(worker); roll = this.next()) {
        const key = keyOf(roll);
        this.doing.add(key);
        try {
          const made = await worker.maker.maker.make(JSON.parse(JSON.stringify(roll)) as Roll);
          if (this.workers.includes(worker)) this.hold(key, roll, made);
        } catch (error) {
          this.waiting = this.waiting.filter((w) => w.key !== key || void w.fail(error as Error));
          throw error;
        } finally {
          this.doing.delete(key);
        }
      }
    } catch (error) {
      tell.error(`The sound could not be made: ${(error as Error).message}`);
    } finally {
      worker.busy = false;
    }
  }

  private hold(key: string, roll: Roll, { audio, format, anchor, facts, peaks }: MadeAudio): void {
    const name = nameOfRoll(roll, facts);
    const path = `${name}.wav`;
    const file = { rootId: 0, rootName: 'made here', path, size: audio.size, format, anchor, now: Date.now() };
    const part = soundMade(suggested({ fxName: name }), file, { made: madeOf(roll) });
    // What it is levelled by.
    for (const fact of ['loudness', 'truePeak', 'brightness', 'noisiness'] as const)
      if (facts[fact] !== undefined) part.fields[fact] = facts[fact];
    const sound = this.loose.adopt(new File([audio], path), part, peaks);
    this.made.set(key, { roll, sound, audio, facts, name });
    this.waiting = this.waiting.filter((w) => w.key !== key || void w.done());
    this.letGo();
  }

  private letGo(): void {
    const listed = new Set(this.wanted().map(keyOf));
    const free = [...this.made].filter(([key]) => !listed.has(key));
    for (const [key, { sound }] of free.slice(0, Math.max(0, free.length - KEPT))) {
      this.made.delete(key);
      this.loose.abandon([sound]);
    }
  }

  /** The sound of a roll that is wanted, once it is made. */
  async whenMade(roll: Roll): Promise<MadeRoll> {
    const key = keyOf(roll);
    if (!this.made.has(key)) {
      const made = new Promise<void>((done, fail) => this.waiting.push({ key, done, fail }));
      this.go();
      await made;
    }
    return this.made.get(key)!;
  }

  /** Ends all work, and lets go of what was made. */
  end(): void {
    for (const { maker } of this.workers.splice(0)) maker.end();
    for (const { fail } of this.waiting.splice(0)) fail(new Error('it was left before it was made'));
    this.doing.clear();
    this.loose.abandon([...this.made.values()].map((m) => m.sound));
    this.made.clear();
  }
}
