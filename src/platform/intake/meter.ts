import type { RootWork } from './work';

/** The rate is that of so many of the last milliseconds. */
const OVER = 8000;

/** Counts work as it is done, and how fast it goes. */
export class Meter {
  private marks: { at: number; done: number }[] = [{ at: performance.now(), done: 0 }];
  private counted = 0;

  constructor(readonly work: RootWork) {}

  count(n = 1): void {
    this.work.done += n;
    this.counted += n;
    const now = performance.now();
    const { marks } = this;
    if (now - marks[marks.length - 1].at > 100) marks.push({ at: now, done: this.counted });
    while (marks.length > 2 && now - marks[1].at > OVER) marks.shift();
    const passed = now - marks[0].at;
    this.work.rate = passed > 200 ? (1000 * (this.counted - marks[0].done)) / passed : 0;
  }
}
