import type { Sound } from '@core/library';
import { WritingStopped } from '../files/disk';
import { RootUnavailable } from '../files/roots';
import type { WriteOutcome, WriteProgress } from './write-plan';

/** Says which file a work is about. */
export type About = (file: Pick<Sound, 'id' | 'path' | 'size'>) => void;

/** Files that are written at the same time: one is asked for while another is on its way. */
export const AT_ONCE = 3;

/** Whether nothing more can be written for now, and not only this one file. */
export const endsAll = (error: unknown): boolean => error instanceof WritingStopped || error instanceof RootUnavailable;

/** Goes through many files, can rest between two of them, and end. */
export class FileRun {
  cancelled = false;
  private resume: (() => void) | undefined;
  private paused: Promise<void> | undefined;

  /** What was said to work before counts no more. */
  begin(): void {
    this.cancelled = false;
    this.proceed();
  }

  /** Ends the work after the files in hand. */
  cancel(): void {
    this.cancelled = true;
    this.proceed();
  }

  /** Lets the work rest after the files in hand. */
  pause(): void {
    this.paused ??= new Promise((go) => (this.resume = go));
  }

  proceed(): void {
    this.resume?.();
    this.paused = this.resume = undefined;
  }

  /**
   * Does something for each file; one that fails is told, and the rest goes on unless nothing can be written any more.
   * @param one says first which file it is about; false where there was nothing to do
   * @param atOnce how many are in hand at the same time
   */
  async each(
    total: number,
    outcome: WriteOutcome,
    report: (progress: WriteProgress) => void,
    one: (i: number, about: About) => Promise<boolean>,
    atOnce = AT_ONCE,
  ): Promise<void> {
    const progress: WriteProgress = { done: 0, total, bytes: 0, current: '' };
    let next = 0;
    const work = async () => {
      for (let i = next++; i < total; i = next++) {
        if (this.paused) await this.paused;
        if (this.cancelled || outcome.stopped !== undefined) return;
        let file: Parameters<About>[0] | undefined;
        try {
          const done = await one(i, (about) => {
            file = about;
            progress.current = about.path;
            report({ ...progress });
          });
          if (done) outcome.written++;
        } catch (error) {
          const reason = (error as Error).message;
          if (endsAll(error)) outcome.stopped ??= reason;
          outcome.failed.push({ id: file?.id ?? 0, path: file?.path ?? '', reason });
        }
        progress.done++;
        progress.bytes += file?.size ?? 0;
        report({ ...progress });
      }
    };
    await Promise.all(Array.from({ length: atOnce }, work));
    if (this.cancelled) outcome.stopped ??= 'you stopped it';
  }
}
