import { TOO_LOUD } from '@core/audio';
import type { Change, Sound } from '@core/library';
import { changeOf, factPatch } from '@core/library';
import type { Measured } from './intake';
import type { IntakeCatalogue } from './root-run';

/** Measured sounds are kept at the latest after this many, or this long. Milliseconds. */
const FLUSH_COUNT = 64;
const FLUSH_AFTER = 400;
/** What is said of samples that hold no finite number, behind how many they are. */
const HOT = 'far above full scale; it is held back to full scale where it is auditioned';
const SILENCED = 'samples hold no finite number; silence is heard in their place';

/** The change that puts what was measured on a sound. */
function changeFor(sound: Sound, measured: Measured): Change | undefined {
  const after = factPatch(sound, measured.facts, measured.hash);
  if (sound.marks.anchor < 0) after['marks.anchor'] = measured.anchor;
  if (sound.format.frames !== measured.format.frames) {
    after.format = measured.format;
    after['fields.length'] = measured.format.frames / measured.format.rate;
  }
  // It is said anew each time that it is measured, and once.
  const warnings = sound.warnings.filter((w) => !w.includes(SILENCED) && !w.includes(HOT));
  if (measured.silenced > 0) warnings.push(`${measured.silenced} ${SILENCED}`);
  const { truePeak } = measured.facts;
  const loud = truePeak !== undefined && truePeak > TOO_LOUD;
  const hot = loud ? [`it peaks at ${truePeak.toFixed(1)} dBTP, ${HOT}`] : [];
  for (const warning of [...measured.warnings, ...hot]) if (!warnings.includes(warning)) warnings.push(warning);
  if (JSON.stringify(warnings) !== JSON.stringify(sound.warnings)) after.warnings = warnings;
  return changeOf('sounds', sound, after);
}

/** Keeps measurements together until they are worth an edit. */
export class MeasuredBatch {
  private waiting: Measured[] = [];
  private last = performance.now();
  private flushing: Promise<void> = Promise.resolve();

  constructor(private readonly catalogue: IntakeCatalogue) {}

  async add(measured: Measured): Promise<void> {
    this.waiting.push(measured);
    if (this.waiting.length < FLUSH_COUNT && performance.now() - this.last <= FLUSH_AFTER) return;
    // Measuring goes on while these are kept, but never further ahead than one batch.
    const before = this.flushing;
    this.flushing = before.then(() => this.keep());
    this.flushing.catch(() => undefined);
    await before;
  }

  /** Keeps all that was measured. @throws what keeping it threw */
  async flush(): Promise<void> {
    await this.flushing;
    await this.keep();
  }

  private async keep(): Promise<void> {
    const measured = new Map(this.waiting.splice(0).map((m) => [m.id, m]));
    this.last = performance.now();
    if (measured.size === 0) return;
    // As they are by now: somebody may have set an anchor while they were measured.
    const sounds = await this.catalogue.sounds([...measured.keys()]);
    const changes = sounds.flatMap((s) => changeFor(s, measured.get(s.id)!) ?? []);
    const there = sounds.map((s) => measured.get(s.id)!);
    await this.catalogue.applyMeasured(
      { label: 'Measure', at: Date.now(), changes, undoable: false },
      { peaks: there.map((m) => m.peaks), facts: there.map((m) => m.record) },
    );
  }
}
