import { meaning } from '@core/meaning';
import { mayPropose, type FieldValue, type Sound } from '@core/library';
import { categories, Classifier, evidenceOf, propose, type Proposal, type Ranked } from '@core/suggest';
import { carryOut, eachSound, everyRow, tables, type Desk, type Progress } from './desk';

/** A sound that waits for a decision, with what is proposed. */
export interface ReviewRow {
  id: number;
  /** Most probable first; empty when nothing speaks for any. */
  ranked: Ranked[];
  /** Values for further fields, where it has none of people's own. */
  proposals: Record<string, Proposal>;
}

/** A decision on a sound: the chosen category (undefined: none) and the fields whose proposals go along. */
export interface Decision {
  id: number;
  catId?: string;
  /** Chosen by hand rather than the first guess. */
  corrected: boolean;
  fields: string[];
}

const newClassifier = () => new Classifier(categories, (word) => meaning().of(word));

/** A guess that was accepted teaches less than a choice, and what a file said is nobody's choice here. */
const weightOf = (origin: string | undefined) => (origin === 'typed' ? 1 : 0.25);

/** The review of one list of sounds: what waits, and what was learnt of the library so far. */
export class Review {
  private classifier = newClassifier();
  private waiting = new Map<number, Sound>();
  /** Sounds that wait, by the terms of their names. */
  private byTerm = new Map<string, Set<number>>();

  constructor(private readonly desk: Desk) {}

  /**
   * Begins with sounds whose category nobody has decided on. What the rest of the library has teaches the classifier first.
   * @param ids the sounds in question
   */
  async begin(ids: readonly number[], progress: Progress): Promise<ReviewRow[]> {
    await tables(this.desk);
    this.classifier = newClassifier();
    this.waiting.clear();
    this.byTerm.clear();
    await everyRow<Sound>(this.desk, 'sounds', (rows) => {
      for (const s of rows) {
        const { catId } = s.fields;
        const evidence = evidenceOf(s);
        this.classifier.survey(evidence);
        if (catId !== undefined)
          this.classifier.learn(evidence, String(catId), weightOf(s.from.catId), s.from.catId === 'typed');
      }
    });
    const rows: ReviewRow[] = [];
    await eachSound(
      this.desk,
      ids,
      (sound) => {
        if (sound.hidden || sound.fields.catId !== undefined) return;
        this.waiting.set(sound.id, sound);
        for (const term of this.classifier.termsOf(evidenceOf(sound))) {
          const list = this.byTerm.get(term);
          if (list) list.add(sound.id);
          else this.byTerm.set(term, new Set([sound.id]));
        }
        rows.push(this.rowOf(sound));
      },
      (share) => progress(share, 'Looking for categories'),
    );
    return rows;
  }

  private rowOf(sound: Sound): ReviewRow {
    const proposals = Object.entries(propose(sound)).filter(([key]) => mayPropose(sound, key));
    return {
      id: sound.id,
      ranked: this.classifier.rank(evidenceOf(sound), 6),
      proposals: Object.fromEntries(proposals),
    };
  }

  /**
   * Carries decisions out as one edit, learns from them, and guesses those again that share a word with them.
   * @returns rows whose guesses are others now
   */
  async decide(decisions: readonly Decision[], label: string): Promise<ReviewRow[]> {
    const again = new Set<number>();
    const plans = decisions.flatMap((d) => {
      const sound = this.waiting.get(d.id);
      if (!sound) return [];
      const { proposals } = this.rowOf(sound);
      const values: Record<string, FieldValue | undefined> = {};
      for (const key of d.fields) if (proposals[key]) values[key] = proposals[key].value;
      if (d.catId !== undefined) values.catId = d.catId;
      return [{ sound, values: { values, tagNames: {} }, corrected: d.corrected }];
    });
    const part = (corrected: boolean) => plans.filter((p) => p.corrected === corrected);
    await carryOut(this.desk, part(false), 'suggested', { label, by: 'suggestion' });
    // What was chosen by hand is typed, and nothing proposes over it any more.
    await carryOut(this.desk, part(true), 'typed', { label, by: 'typed' });
    for (const d of decisions) {
      const sound = this.waiting.get(d.id);
      if (!sound || d.catId === undefined) continue;
      const evidence = evidenceOf(sound);
      this.waiting.delete(d.id);
      // An accepted guess tells less than a correction.
      this.classifier.learn(evidence, d.catId, d.corrected ? 1 : 0.25, d.corrected);
      if (decisions.length > 50 && !d.corrected) continue;
      for (const term of this.classifier.termsOf(evidence)) for (const id of this.byTerm.get(term) ?? []) again.add(id);
    }
    return [...again].flatMap((id) => {
      const sound = this.waiting.get(id);
      return sound ? [this.rowOf(sound)] : [];
    });
  }
}
