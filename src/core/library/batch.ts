import type { Recipe, ShortNames, Texts } from '@core/naming';
import { fieldsOf, RecipeRun } from '@core/naming';
import type { Patch } from './edits';
import type { FieldValue } from './field';
import { fieldOf, isField } from './fields';
import { labelPatch, type Labelling } from './labels';
import type { Sound } from './sound';
import { textOf, valueFrom, type TagNames } from './values';

/** Values about to be put on a sound; tags by their names until they have ids. */
export interface Values {
  values: Record<string, FieldValue | undefined>;
  tagNames: Record<string, string[]>;
}

/** The texts of some fields of a sound. */
export function textsOf(sound: Pick<Sound, 'fields'>, keys: readonly string[], tags: TagNames): Texts {
  return Object.fromEntries(keys.map((key) => [key, textOf(fieldOf(key), sound.fields[key], tags)]));
}

/** Texts by field as values. @returns a fault in words for the first text that its field cannot hold */
export function valuesFrom(texts: Texts): Values | { fault: string } {
  const made: Values = { values: {}, tagNames: {} };
  for (const [key, text] of Object.entries(texts)) {
    const typed = valueFrom(fieldOf(key), text);
    if ('fault' in typed) return { fault: `${fieldOf(key).label}: ${typed.fault}` };
    if ('tagNames' in typed) made.tagNames[key] = typed.tagNames;
    else made.values[key] = typed.value;
  }
  return made;
}

/** The patch of values on a sound, once their tags have ids. @param tagId of a tag's name, in any case */
export function patchOf(
  sound: Pick<Sound, 'fields'>,
  { values, tagNames }: Values,
  tagId: (name: string) => number | undefined,
  labelling: Labelling,
): Patch {
  const all = { ...values };
  for (const [key, names] of Object.entries(tagNames)) all[key] = names.flatMap((n) => tagId(n) ?? []);
  return labelPatch(sound, all, labelling);
}

/** What a recipe does to one sound: the texts of the fields it writes, before and after, or why it cannot be done. */
export type Planned =
  { before: Texts; after: Texts; changed: string[]; values: Values } | { before: Texts; fault: string; step: number };

/** Runs a recipe over sounds without changing them. */
export class Batch {
  private readonly run: RecipeRun;
  /** Fields that the recipe reads or writes. */
  readonly keys: string[];
  /** Fields that it may change. */
  readonly written: string[];

  /** @param watch see `RecipeRun` */
  constructor(
    recipe: Pick<Recipe, 'steps'>,
    shortNames: ShortNames,
    private readonly tags: TagNames,
    watch?: (step: number) => void,
  ) {
    const may = (key: string, written: boolean) => isField(key) && (!written || fieldOf(key).edited);
    this.run = new RecipeRun(recipe, shortNames, may, watch);
    const used = recipe.steps.filter((s) => s.on).map(fieldsOf);
    const there = (keys: string[]) => [...new Set(keys)].filter(isField);
    this.keys = there(used.flatMap((u) => [...u.reads, ...u.writes]));
    this.written = there(used.flatMap((u) => u.writes));
  }

  /** Steps that cannot be run at all. */
  get faults(): readonly { step: number; message: string }[] {
    return this.run.faults;
  }

  /** What the recipe would do to a sound. @param index its place among all that it is run on */
  plan(sound: Pick<Sound, 'fields'>, index: number): Planned {
    const before = textsOf(sound, this.keys, this.tags);
    const outcome = this.run.over(before, index);
    if ('fault' in outcome) return { before, fault: outcome.fault, step: outcome.step };
    const changed = this.written.filter((key) => (outcome.texts[key] ?? '') !== before[key]);
    const after = Object.fromEntries(this.written.map((key) => [key, outcome.texts[key] ?? '']));
    const values = valuesFrom(Object.fromEntries(changed.map((key) => [key, after[key]])));
    if ('fault' in values) return { before, fault: values.fault, step: -1 };
    return { before, after, changed, values };
  }
}
