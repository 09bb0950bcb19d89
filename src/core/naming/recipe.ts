import { inCase, type CaseForm } from './case';
import type { ShortNames } from './short-names';

/** What a condition may ask of a field. */
export const conditionTests = ['is', 'isNot', 'contains', 'lacks', 'filled', 'empty', 'above', 'below'] as const;

/** Holds a step back from sounds that do not meet it. */
export interface Condition {
  field: string;
  test: (typeof conditionTests)[number];
  value?: string;
}

interface Common {
  /** Steps that are off are passed over. */
  on: boolean;
  when?: Condition;
}

/** One line of a recipe. Fields are named by their keys of the registry; texts may hold `{field}` where it says so. */
export type Step = Common &
  (
    | { kind: 'copy'; from: string; to: string }
    /** `text` may hold fields: `{library} {take}`. */
    | { kind: 'set'; to: string; text: string }
    | { kind: 'clear'; to: string }
    /** Takes characters away, or spaces and the given characters at both ends when `count` is 0. */
    | { kind: 'trim'; to: string; side: 'start' | 'end' | 'both'; count: number; characters?: string }
    | { kind: 'replace'; to: string; find: string; with: string; matchCase: boolean; wholeWords: boolean }
    /** A regular expression; `$1` stands for what its first bracket caught. */
    | { kind: 'pattern'; to: string; find: string; with: string; matchCase: boolean }
    | { kind: 'case'; to: string; form: CaseForm }
    /** Counts the sounds in their order. */
    | {
        kind: 'number';
        to: string;
        start: number;
        by: number;
        digits: number;
        place: 'before' | 'after' | 'instead';
        join: string;
      }
    /** The parts go to the fields in turn; the last one takes the rest. */
    | { kind: 'split'; from: string; by: string; into: string[] }
    /** Empty fields are left out. */
    | { kind: 'join'; of: string[]; with: string; to: string }
    | { kind: 'pad'; to: string; width: number; with: string; side: 'start' | 'end' }
    | { kind: 'shortName'; from: string; to: string; way: 'shorten' | 'expand' }
  );

export type StepKind = Step['kind'];

/** A saved batch edit. */
export interface Recipe {
  id: number;
  name: string;
  steps: Step[];
}

/** Texts of fields by key. */
export type Texts = Readonly<Record<string, string>>;

/** What running a recipe over one sound's texts gives. */
export type Outcome = { texts: Texts } | { fault: string; step: number };

const noText: Texts = {};

function meets(condition: Condition | undefined, texts: Texts): boolean {
  if (!condition) return true;
  const text = texts[condition.field] ?? '';
  const value = condition.value ?? '';
  const same = (a: string) => a.toLowerCase();
  switch (condition.test) {
    case 'is':
      return same(text) === same(value);
    case 'isNot':
      return same(text) !== same(value);
    case 'contains':
      return same(text).includes(same(value));
    case 'lacks':
      return !same(text).includes(same(value));
    case 'filled':
      return text !== '';
    case 'empty':
      return text === '';
    case 'above':
      return text !== '' && Number(text) > Number(value);
    case 'below':
      return text !== '' && Number(text) < Number(value);
  }
}

const quoted = (text: string) => text.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');

type Work = (texts: Texts, index: number) => Texts;
class StepFault extends Error {}

function trimmer(step: Extract<Step, { kind: 'trim' }>): (text: string) => string {
  const { count, side } = step;
  if (count > 0) {
    // By characters as people count them, so that no emoji is cut in half.
    return (text) => {
      const all = [...text];
      return all.slice(side === 'end' ? 0 : count, side === 'start' ? undefined : -count).join('');
    };
  }
  const set = `[\\s${(step.characters ?? '').replace(/[\\\]^-]/g, '\\$&')}]+`;
  const wanted = new RegExp(
    [side !== 'end' && `^${set}`, side !== 'start' && `${set}$`].filter(Boolean).join('|'),
    'gu',
  );
  return (text) => text.replace(wanted, '');
}

function replacer(step: Extract<Step, { kind: 'replace' | 'pattern' }>): (text: string) => string {
  if (!step.find) throw new StepFault('there is nothing to look for');
  const flags = step.matchCase ? 'gu' : 'giu';
  if (step.kind === 'replace') {
    const edge = step.wholeWords ? ['(?<![\\p{L}\\p{N}])', '(?![\\p{L}\\p{N}])'] : ['', ''];
    const wanted = new RegExp(edge[0] + quoted(step.find) + edge[1], flags);
    return (text) => text.replace(wanted, () => step.with);
  }
  let wanted: RegExp;
  try {
    wanted = new RegExp(step.find, flags);
  } catch (error) {
    throw new StepFault(
      `the pattern cannot be read: ${(error as Error).message.replace(/^Invalid regular expression: /, '')}`,
    );
  }
  return (text) => text.replace(wanted, step.with);
}

/** What a step does, made ready once for all sounds. */
function workOf(step: Step, shortNames: ShortNames): Work {
  const on = (key: string, change: (text: string, texts: Texts, index: number) => string): Work => {
    return (texts, index) => ({ ...texts, [key]: change(texts[key] ?? '', texts, index) });
  };
  switch (step.kind) {
    case 'copy':
      return on(step.to, (_, texts) => texts[step.from] ?? '');
    case 'set':
      return on(step.to, (_, texts) => step.text.replace(/\{([\w@-]+)\}/g, (_, key: string) => texts[key] ?? ''));
    case 'clear':
      return on(step.to, () => '');
    case 'trim':
      return on(step.to, trimmer(step));
    case 'replace':
    case 'pattern':
      return on(step.to, replacer(step));
    case 'case':
      return on(step.to, (text) => inCase(text, step.form));
    case 'number':
      return on(step.to, (text, _, index) => {
        const number = String(step.start + index * step.by).padStart(step.digits, '0');
        if (step.place === 'instead' || !text) return number;
        return step.place === 'before' ? number + step.join + text : text + step.join + number;
      });
    case 'split': {
      if (!step.by) throw new StepFault('there is nothing to split by');
      return (texts) => {
        const parts = (texts[step.from] ?? '').split(step.by).map((p) => p.trim());
        const last = step.into.length - 1;
        const made: Record<string, string> = { ...texts };
        step.into.forEach((key, i) => {
          const part = i === last ? parts.slice(i).join(step.by) : parts[i];
          if (part) made[key] = part;
        });
        return made;
      };
    }
    case 'join':
      return on(step.to, (_, texts) =>
        step.of
          .map((key) => texts[key] ?? '')
          .filter(Boolean)
          .join(step.with),
      );
    case 'pad':
      return on(step.to, (text) => {
        if (!text) return '';
        return step.side === 'start'
          ? text.padStart(step.width, step.with || ' ')
          : text.padEnd(step.width, step.with || ' ');
      });
    case 'shortName':
      return on(step.to, (_, texts) => {
        const text = texts[step.from] ?? '';
        if (!text) return texts[step.to] ?? '';
        const found = step.way === 'shorten' ? shortNames.shorten(text) : shortNames.expand(text);
        if (found === undefined) throw new StepFault(`“${text}” is not in the table of short names`);
        return found;
      });
  }
}

/** The fields that a step reads, and those that it writes. */
export function fieldsOf(step: Step): { reads: string[]; writes: string[] } {
  const reads = step.when ? [step.when.field] : [];
  if ('from' in step) reads.push(step.from);
  if (step.kind === 'join') reads.push(...step.of);
  if (step.kind === 'set') for (const [, key] of step.text.matchAll(/\{([\w@-]+)\}/g)) reads.push(key);
  return { reads, writes: step.kind === 'split' ? step.into : [step.to] };
}

/**
 * Runs recipes. What can be made ready once is made ready here: patterns are compiled, fields are looked up.
 * Patterns are the engine's own regular expressions and can take very long on some texts; whoever runs this does so in a
 * worker that can be ended (see `Labeller`), and reads from `watch` where it stands.
 */
export class RecipeRun {
  private readonly works: { work: Work; when?: Condition; step: number }[] = [];
  /** Steps that cannot be run at all, by place. */
  readonly faults: { step: number; message: string }[] = [];

  /**
   * @param known whether a field of this key may be read, or written
   * @param watch takes the place of the step about to be run
   */
  constructor(
    recipe: Pick<Recipe, 'steps'>,
    shortNames: ShortNames,
    known: (key: string, written: boolean) => boolean,
    private readonly watch: (step: number) => void = () => undefined,
  ) {
    recipe.steps.forEach((step, i) => {
      if (!step.on) return;
      const { reads, writes } = fieldsOf(step);
      const missing = reads.find((key) => !known(key, false)) ?? writes.find((key) => !known(key, true));
      if (missing !== undefined || writes.length === 0) {
        this.faults.push({
          step: i,
          message: missing ? `“${missing}” is no field that can be used here` : 'a field is not chosen yet',
        });
        return;
      }
      try {
        this.works.push({ work: workOf(step, shortNames), when: step.when, step: i });
      } catch (error) {
        this.faults.push({ step: i, message: (error as Error).message });
      }
    });
  }

  /** Runs all steps over the texts of one sound. @param index its place among the sounds, from 0 */
  over(texts: Texts = noText, index = 0): Outcome {
    if (this.faults.length > 0) return { fault: this.faults[0].message, step: this.faults[0].step };
    let now = texts;
    for (const { work, when, step } of this.works) {
      this.watch(step);
      if (!meets(when, now)) continue;
      try {
        now = work(now, index);
      } catch (error) {
        return { fault: (error as Error).message, step };
      }
    }
    return { texts: now };
  }
}
