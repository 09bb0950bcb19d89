import type { Change, Sound } from '@core/library';
import { changeOf, factPatch } from '@core/library';
import type { Measured } from './intake';
import type { IntakeCatalogue } from './root-run';
import type { FactsRecord, PeaksRecord } from '../store/store';

/** Measured sounds are kept at the latest after this many, or this long. Milliseconds. */
const FLUSH_COUNT = 48;
const FLUSH_AFTER = 400;
/** What is said of samples that hold no finite number, behind how many they are. */
const SILENCED = 'samples hold no finite number; silence is heard in their place';

/** Keeps measurements together until they are worth an edit. */
export class MeasuredBatch {
  private peaks: PeaksRecord[] = [];
  private facts: FactsRecord[] = [];
  private changes: Change[] = [];
  private last = performance.now();

  constructor(private readonly catalogue: IntakeCatalogue) {}

  async add(sound: Sound, measured: Measured): Promise<void> {
    this.peaks.push(measured.peaks);
    this.facts.push(measured.record);
    const after = factPatch(sound, measured.facts, measured.hash);
    if (sound.marks.anchor < 0) after['marks.anchor'] = measured.anchor;
    if (sound.format.frames !== measured.format.frames) {
      after.format = measured.format;
      after['fields.length'] = measured.format.frames / measured.format.rate;
    }
    // It is said anew each time that it is measured, and once.
    const warnings = sound.warnings.filter((w) => !w.includes(SILENCED));
    if (measured.silenced > 0) warnings.push(`${measured.silenced} ${SILENCED}`);
    if (warnings.length !== sound.warnings.length) after.warnings = warnings;
    const change = changeOf('sounds', sound, after);
    if (change) this.changes.push(change);
    if (this.facts.length >= FLUSH_COUNT || performance.now() - this.last > FLUSH_AFTER) await this.flush();
  }

  async flush(): Promise<void> {
    const { peaks, facts, changes } = this;
    if (facts.length === 0) return;
    [this.peaks, this.facts, this.changes] = [[], [], []];
    this.last = performance.now();
    const edit = { label: 'Measure', at: Date.now(), changes, undoable: false };
    await this.catalogue.applyMeasured(edit, { peaks, facts });
  }
}
