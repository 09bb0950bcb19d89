import { fold, splitName, stem } from '@core/naming';
import { calibrated } from './calibrated';
import type { Category } from './categories';
import { Choices, type Chosen, type Named } from './choices';
import { deed, doingOf, made, materialOf } from './doings';
import { joining, Lexicon, type Entry } from './lexicon';
import { Measured, type Measures } from './measured';
import { plain } from './trade-words';

/** What is known of a sound before it has a category. */
export interface Evidence extends Measures {
  /** File name without ending. */
  name: string;
  /** Folders below the root, with `/` between them. */
  folder: string;
  /** Texts that its file or people say about it: description, keywords, an older category. */
  texts?: readonly { where: string; text: string; weight: number }[];
}

/** A category that may fit. */
export interface Ranked {
  catId: string;
  /** 0..1, calibrated: of all said to be 0.9 sure, about nine in ten are right. */
  probability: number;
  /** What spoke for it, in words. */
  reason: string;
}

/** A word near another, as the lexicon of meaning has it. */
export interface Near {
  word: string;
  kinship: string;
  /** From 1, near, to 7. */
  distance: number;
}

/** How much of what a near word says counts, by how it is related; what is not here says nothing. */
const related: ReadonlyMap<string, number> = new Map(
  Object.entries({
    form: 0.8,
    same: 0.8,
    general: 1.1,
    kind: 0.4,
    whole: 0.4,
    part: 0.3,
  }),
);
/** Near words that are listened to, and rows that each may speak for. */
const [NEAR_WORDS, NEAR_ROWS] = [4, 3];

interface Token {
  /** As it is compared. */
  term: string;
  /** As it was written. */
  written: string;
  where: string;
  weight: number;
}

/** A term that was found, and the rows that it speaks for. */
interface Saying {
  entries: readonly Entry[];
  weight: number;
  text: string;
}

interface Reason {
  text: string;
  amount: number;
}

/** How much softer or harder than the scores say the first guess is; see `calibrated`. */
const SHARPNESS = 1.15;

const prepositions = new Set(
  'on onto in into at against under over through from near beside across inside behind above'.split(' '),
);
const waters = new Set('water lake river pond sea pool puddle'.split(' '));
/** How much more the first word of a name weighs. */
const FIRST = 1.2;
/** What a word behind a preposition still weighs. */
const BEHIND = 0.6;

/** What words of the nearest folder weigh beside a name that tells of a thing itself, and of each further one of that. */
const [FOLDER, FURTHER] = [0.62, 0.72];

/** From this weight on a word is part of the name, wherever that was read. */
const NAMED = 0.5;
/** That something passes, and what is large enough that its passing is more than a whoosh. */
const passing = new Set(
  ['fly by', 'pass by', 'flyby', 'passby', 'drive by', 'fly past'].map((run) => run.split(' ').map(stem).join(' ')),
);
const craft = /^(AIRCRAFT|BOATS|TRAINS|VEHICLES)|^SCIFI SPACESHIP/;
/** What a material and what is done to it weigh together. */
const TOGETHER = 2.2;
/** What the two words of a row weigh together. */
const WHOLE = 6;

/** Rows that only fit when their own words are there: they start behind. */
const behind: ReadonlyMap<string, number> = new Map(
  Object.entries({
    ARCHIVED: 1.2,
    CARTOON: 0.9,
    SCIFI: 0.5,
    FOLEY: 0.7,
    DESIGNED: 0.5,
    MUSICAL: 0.4,
    FARTS: 0.5,
    GAMES: 0.4,
    SPORTS: 0.2,
    TOYS: 0.4,
    CHEMICALS: 0.2,
    MOVEMENT: 0.5,
    CROWDS: 0.1,
    AMBIENCE: 0.25,
  }),
);

/** Rows that are meant far more often than their neighbours. */
const ahead: ReadonlyMap<string, number> = new Map(
  Object.entries({
    BIRDMisc: -0.2,
    MOTRComb: -0.5,
    VEGEGras: -0.2,
    FEETHmn: 0.6,
    DOORWood: 0.2,
    WHSH: 0.3,
    WATRWave: 0.3,
    GUNPis: 0.1,
    EXPLMisc: 0.2,
    VEHCar: 0.1,
  }),
);

/**
 * Guesses the category of sounds from the words of their names, folders and texts, from what was measured, and from what
 * people of this library have chosen for sounds of like words.
 *
 * Scores add up over terms ({@link Lexicon}); words of folders count less, the further up the less. Choices that people made
 * count like further entries of the lexicon, by how often a word went along with a category. The scores become
 * probabilities by a softmax and a monotone table that was fitted to made-up names (see `scripts/calibrate.ts`).
 */
export class Classifier {
  private readonly lexicon: Lexicon;
  private readonly prior: Float64Array;
  private readonly ambient: Uint8Array;
  private readonly rowOf: Map<string, number>;
  /** Rows by category and SubCategory. */
  private readonly rowNamed: Map<string, number>;
  /** Rows by the one word of their SubCategory, where it is what is done, with the one word of their Category. */
  private readonly subs = new Map<string, { row: number; category: string }[]>();
  private readonly choices = new Choices();
  private readonly measured = new Measured();
  private readonly scores: Float64Array;

  /** @param near words that stand near a folded one, nearest first, for those that the list does not know */
  constructor(
    private readonly rows: readonly Category[],
    private readonly near: (word: string) => readonly Near[] = () => [],
  ) {
    this.lexicon = new Lexicon(rows);
    this.rowOf = new Map(rows.map((c, i) => [c.catId, i]));
    this.rowNamed = new Map(rows.map((c, i) => [`${c.category} ${c.subCategory}`, i]));
    rows.forEach(({ category, subCategory }, row) => {
      const [thing, sub] = [category, subCategory].map((text) => fold(text).split(' ').map(stem));
      // How a thing moves, such as sliding, tells less than what it is made of.
      const isDone = doingOf.has(sub[0]) && !subCategory.endsWith('ING');
      if (thing.length > 1 || sub.length > 1 || !made.test(category) || !isDone) return;
      this.subs.set(sub[0], [...(this.subs.get(sub[0]) ?? []), { row, category: thing[0] }]);
    });
    this.scores = new Float64Array(rows.length);
    this.prior = Float64Array.from(
      rows,
      (c) =>
        (ahead.get(c.catId) ?? 0) -
        (behind.get(c.category) ?? 0) -
        (c.subCategory === 'MISC'
          ? 0.12
          : /^(SOURCE|DESIGNED|PREHUNG|HYPOTHETICAL|ANTIQUE|SAMPLE|PROP)$/.test(c.subCategory)
            ? 0.5
            : 0),
    );
    this.ambient = Uint8Array.from(rows, (c) => (c.category === 'AMBIENCE' ? 1 : 0));
  }

  private tokens(e: Evidence): Token[] {
    const tokens: Token[] = [];
    const take = (text: string, where: string, weight: number) => {
      const words = splitName(text);
      let place = weight;
      const foreign = words.some((w) => /[^\x00-\x7f]/.test(w) || this.lexicon.isForeign(fold(w)));
      for (const [i, written] of words.entries()) {
        // What stands behind a preposition is where or on what it happens, not what happens; what goes into water splashes. Whose it is
        // tells as little.
        if (prepositions.has(fold(written))) place = weight * BEHIND;
        const splashes = fold(written) === 'into' && waters.has(fold(words[i + 1] ?? ''));
        if (splashes) tokens.push({ term: 'splash', written: `into ${words[i + 1]}`, where, weight: weight * 0.85 });
        for (const term of this.lexicon.read(fold(written), foreign))
          tokens.push({ term, written, where, weight: words[i + 1] === 's' ? weight * BEHIND : place });
      }
      // A border that no run of words crosses.
      tokens.push({ term: '', written: '', where, weight: 0 });
    };
    take(e.name, 'the name', 1);
    // Most names begin with the thing that sounds.
    const first = tokens.find((t) => this.speaks(t) && this.lexicon.find(t.term) && !this.isMark(t));
    if (first) for (const t of tokens) if (t.written === first.written) t.weight *= FIRST;
    const isThing = (t: Token) => this.speaks(t) && !deed.has(t.term) && this.lexicon.find(t.term) !== undefined;
    const near = tokens.some(isThing) ? FOLDER : 1;
    e.folder
      .split('/')
      .reverse()
      .forEach((part, depth) => part && take(part, 'the folder', depth > 0 ? FOLDER * FURTHER ** depth : near));
    for (const { text, where, weight } of e.texts ?? []) take(text, where, weight);
    return tokens;
  }

  /** The terms of a name that choices are learnt by. */
  termsOf(evidence: Evidence): string[] {
    const telling = this.tokens(evidence).filter((t) => t.weight >= NAMED && this.speaks(t));
    return [...new Set(telling.map((t) => t.term))];
  }

  /** What choices for a sound are learnt by: the terms of its name, and by which others are takes of it. */
  private named(evidence: Evidence): Named {
    const words = splitName(evidence.name).filter((w) => !/^\d+$/.test(w));
    return { terms: this.termsOf(evidence), group: fold(`${evidence.folder}/${words.join(' ')}`) };
  }

  /** Takes in a name of the library, so that words that are in all of them teach nothing. */
  survey(evidence: Evidence): void {
    this.choices.survey(this.named(evidence));
  }

  /** Takes in what people chose for a sound, or takes it back with a count of -1. @param chosen false for what files said, or guesses that were accepted */
  learn(evidence: Evidence, catId: string, count = 1, chosen = true): void {
    const row = this.rowOf.get(catId);
    if (row === undefined) return;
    this.choices.learn(this.named(evidence), row, count, chosen);
    // However sure a label is, it is one sound that measures so.
    this.measured.learn(this.rows[row], evidence, Math.sign(count));
  }

  /** Lets go of all that was learnt. */
  forget(): void {
    this.choices.forget();
    this.measured.forget();
  }

  /** What stands in most names of a library is its mark: what such a word might mean is not asked, as long as it is none of the list. */
  private isMark({ term, written }: Token): boolean {
    return this.choices.telling(term) === 0 && this.lexicon.isGuess(fold(written));
  }

  private speaks({ term }: Token): boolean {
    return term !== '' && !plain.has(term) && !/^\d+$/.test(term);
  }

  /**
   * The categories that fit best, most probable first; empty when nothing speaks for any.
   * @param most how many to give
   */
  rank(evidence: Evidence, most = 5): Ranked[] {
    const { scores } = this;
    scores.set(this.prior);
    const said = this.sayings(evidence);
    if (said.length === 0) return [];
    const touched = new Set<number>();
    for (const { entries, weight } of said)
      for (const entry of entries) {
        scores[entry.row] += entry.weight * weight;
        touched.add(entry.row);
      }
    for (const row of touched) for (const { amount } of this.heard(row, evidence)) scores[row] += amount;
    const order = [...touched].sort((a, b) => scores[b] - scores[a] || a - b);
    const best = scores[order[0]];
    // Little evidence is little ground to be sure on, even when nothing speaks against it.
    let total = Math.exp(SHARPNESS * (1.2 - best));
    for (const row of order) total += Math.exp(SHARPNESS * (scores[row] - best));
    const first = calibrated(1 / total);
    const left = (1 - first) / Math.max(1e-9, 1 - 1 / total);
    return order.slice(0, most).map((row, place) => {
      const share = Math.exp(SHARPNESS * (scores[row] - best)) / total;
      const reason = this.reasons(row, said, evidence);
      // What the first does not take is what all others share.
      const probability = place === 0 ? first : Math.min(first, share * left);
      return { catId: this.rows[row].catId, probability, reason };
    });
  }

  /** Everything that the words say, each word once, at its strongest place. */
  private sayings(evidence: Evidence): Saying[] {
    const tokens = this.tokens(evidence);
    const said: Saying[] = [];
    const isCraft = (t: Token) =>
      this.lexicon
        .find(t.term)
        ?.some((e) => e.weight > 1.5 && craft.test(`${this.rows[e.row].category} ${this.rows[e.row].subCategory}`));
    const used = new Set<string>(tokens.some((t) => !passing.has(t.term) && isCraft(t)) ? passing : []);
    const say = (term: string, weight: number, written: string, where: string) => {
      const entries = used.has(term) ? undefined : this.lexicon.find(term);
      if (!entries) return;
      used.add(term);
      said.push({ entries, weight, text: `“${written.toLowerCase()}” in ${where}` });
    };
    const sayNear = ({ term, written, weight, where }: Token) => {
      if (used.has(term) || this.lexicon.find(term)) return;
      used.add(term);
      const entries = new Map<number, number>();
      let heard = 0;
      for (const { word, kinship, distance } of this.near(fold(written))) {
        const own = this.lexicon.find(stem(word));
        const kin = related.get(kinship);
        if (!own || !kin || plain.has(word)) continue;
        const factor = kin / (1 + distance / 16);
        const best = [...own].sort((a, b) => b.weight - a.weight).slice(0, NEAR_ROWS);
        for (const { row, weight: w } of best) entries.set(row, Math.max(entries.get(row) ?? 0, w * factor));
        if (++heard === NEAR_WORDS) break;
      }
      const text = `“${written.toLowerCase()}” in ${where}`;
      if (entries.size > 0) said.push({ entries: [...entries].map(([row, w]) => ({ row, weight: w })), weight, text });
    };
    const linked = tokens.filter((t) => !joining.has(t.term) && !(t.term && this.isMark(t)));
    linked.forEach((t, i) => {
      if (!t.term) return;
      let run = t.term;
      for (let next = i + 1; next < i + 3 && linked[next]?.term; next++) {
        run += ` ${linked[next].term}`;
        const written = [...new Set(linked.slice(i, next + 1).map((p) => p.written))].join(' ');
        say(run, t.weight, written, t.where);
      }
      if (!this.speaks(t)) return;
      say(t.term, t.weight, t.written, t.where);
      sayNear(t);
      if (t.weight < NAMED || used.has(`${t.term}#`)) return;
      used.add(`${t.term}#`);
      const word = `“${t.written.toLowerCase()}”`;
      said.push(
        ...learnt(this.choices.forTerm(t.term), `chosen for ${word} before`, `others with ${word} are labelled so`),
      );
    });
    const takes = this.choices.forGroup(this.named(evidence).group);
    said.push(...learnt(takes, 'chosen for another take of it', 'another take of it is labelled so'));
    return [...said, ...this.together(tokens), ...this.whole(tokens)];
  }

  /** A row whose Category and SubCategory are both named by words of their own, where that is what a thing does: a wooden door that creaks is a creak. */
  private whole(tokens: readonly Token[]): Saying[] {
    const at = new Map<string, Token>();
    for (const t of tokens) if (t.term && (at.get(t.term)?.weight ?? 0) < t.weight) at.set(t.term, t);
    return [...at.values()].flatMap((sub): Saying[] =>
      (this.subs.get(sub.term) ?? []).flatMap(({ row, category }) => {
        const thing = category === sub.term ? undefined : at.get(category);
        if (!thing) return [];
        const text = `“${thing.written.toLowerCase()}” with “${sub.written.toLowerCase()}”`;
        return [{ entries: [{ row, weight: WHOLE }], weight: Math.min(thing.weight, sub.weight), text }];
      }),
    );
  }

  /** A material and what is done to it make a category of their own: the material that is named first, as it is what something is done to. */
  private together(tokens: readonly Token[]): Saying[] {
    const named = tokens.filter((t) => materialOf.get(t.term) !== undefined);
    const material = named.reduce<Token | undefined>(
      (best, t) => (best && best.weight >= t.weight ? best : t),
      undefined,
    );
    if (!material) return [];
    // A door of wood that creaks is a door.
    const isThing = (t: Token) =>
      !materialOf.has(t.term) &&
      !doingOf.has(t.term) &&
      this.lexicon.find(t.term)?.some((e) => e.weight > 1.5 && made.test(this.rows[e.row].category));
    const thing = tokens.some(isThing);
    const done = new Set<string>();
    return tokens.flatMap((t): Saying[] => {
      const row = this.rowNamed.get(`${materialOf.get(material.term)} ${doingOf.get(t.term)}`);
      if (row === undefined || done.has(t.term)) return [];
      done.add(t.term);
      const text = `“${material.written.toLowerCase()}” with “${t.written.toLowerCase()}”`;
      return [
        {
          entries: [{ row, weight: thing ? TOGETHER / 4 : TOGETHER }],
          weight: Math.min(t.weight, material.weight),
          text,
        },
      ];
    });
  }

  /** What was measured tells places from events, and hard things from soft ones. */
  private heard(row: number, e: Evidence): Reason[] {
    const { seconds } = e;
    if (seconds === undefined) return [];
    const c = this.rows[row];
    const learned = this.measured.speaks(c, e);
    const found: Reason[] = [{ amount: learned, text: learned > 0.2 ? 'measures as its like do' : '' }];
    if (this.ambient[row]) {
      if (seconds > 25) found.push({ amount: 0.5, text: 'long' });
      else if (seconds < 3) found.push({ amount: -0.7, text: '' });
      return found;
    }
    if (seconds > 45 && /IMPACT|BREAK|CLICK|LATCH/.test(c.subCategory)) found.push({ amount: -0.4, text: '' });
    const ringing = (e.pitchSure ?? 0) > 0.5 && (e.brightness ?? 0) > 1500;
    if (ringing && c.category === 'METAL') found.push({ amount: 0.15, text: 'metallic ring' });
    if (ringing && c.subCategory === 'TONAL') found.push({ amount: 0.1, text: 'clear pitch' });
    if (seconds < 3 && (e.onsets ?? 9) <= 2 && /IMPACT|CLICK|LATCH/.test(c.subCategory))
      found.push({ amount: 0.15, text: 'one hit' });
    if ((e.onsets ?? 0) > 6 && /RATTLE|RATCHET|MOVEMENT|CRACKLE/.test(c.subCategory))
      found.push({ amount: 0.1, text: 'many onsets' });
    const hisses = /RAIN|WIND|SURF|SPRAY|HISS|STEAM/.test(`${c.category} ${c.subCategory}`);
    if ((e.noisiness ?? 0) > 0.6 && hisses) found.push({ amount: 0.1, text: 'like noise' });
    return found;
  }

  private reasons(row: number, said: readonly Saying[], evidence: Evidence): string {
    const spoke = said.flatMap(({ entries, weight, text }): Reason[] => {
      const own = entries.find((e) => e.row === row);
      return own ? [{ text, amount: own.weight * weight }] : [];
    });
    const texts = [...spoke, ...this.heard(row, evidence)]
      .filter((r) => r.amount > 0 && r.text !== '')
      .sort((a, b) => b.amount - a.amount)
      .map((r) => r.text);
    return [...new Set(texts)].slice(0, 3).join(', ');
  }
}

/** What was learnt as sayings: what people chose apart from what else labels say. */
function learnt(rows: readonly Chosen[], chosen: string, labelled: string): Saying[] {
  const [own, others] = [rows.filter((r) => r.chosen), rows.filter((r) => !r.chosen)];
  return [
    { entries: own, weight: 1, text: chosen },
    { entries: others, weight: 1, text: labelled },
  ].filter(({ entries }) => entries.length > 0);
}
