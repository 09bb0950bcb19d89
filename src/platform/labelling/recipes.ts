import { Batch, type Planned } from '@core/library';
import type { Recipe } from '@core/naming';
import { carryOut, eachSound, tables, tagNames, type Desk, type Plan, type Progress } from './desk';

/** What a recipe would do, or did, to many sounds. */
export interface RecipeCounts {
  changed: number;
  unchanged: number;
  failing: number;
  /** The first few that fail: sound, step (-1: a field refuses the value) and why. */
  faults: { id: number; name: string; step: number; message: string }[];
}

/** What a recipe would do to one sound, for showing it. */
export interface PreviewRow {
  id: number;
  planned: Planned;
}

const MOST_FAULTS = 100;
/** Sounds that are counted at once: before and after of the rows on screen never waits for more. */
const COUNTED = 100;

async function batchOf(desk: Desk, recipe: Pick<Recipe, 'steps'>, watch: (step: number) => void): Promise<Batch> {
  return new Batch(recipe, await tables(desk), await tagNames(desk), watch);
}

/** Runs a recipe over the rows on screen. @param ids all sounds; @param rows the places of those to show */
export async function previewRecipe(
  desk: Desk,
  recipe: Pick<Recipe, 'steps'>,
  ids: readonly number[],
  rows: readonly number[],
  watch: (step: number) => void,
): Promise<{ rows: PreviewRow[]; written: string[]; faults: readonly { step: number; message: string }[] }> {
  const batch = await batchOf(desk, recipe, watch);
  const found: PreviewRow[] = [];
  await eachSound(
    desk,
    rows.map((row) => ids[row]),
    (sound, i) => {
      found.push({ id: sound.id, planned: batch.plan(sound, rows[i]) });
    },
  );
  return { rows: found, written: batch.written, faults: batch.faults };
}

/**
 * Runs a recipe over sounds, in the order of their ids given.
 * @param keep whether to carry it out, as one edit; else it is only counted
 */
export async function runRecipe(
  desk: Desk,
  recipe: Pick<Recipe, 'name' | 'steps'>,
  ids: readonly number[],
  keep: boolean,
  watch: (step: number) => void,
  progress: Progress,
): Promise<RecipeCounts> {
  // Where nothing could be kept, nothing is worked out: on a full disk each thing that is read costs the browser room.
  if (keep) await desk.catalogue.enough();
  const batch = await batchOf(desk, recipe, watch);
  const counts: RecipeCounts = { changed: 0, unchanged: 0, failing: 0, faults: [] };
  const plans: Plan[] = [];
  const what = keep ? 'Working out what changes' : 'Counting';
  await eachSound(
    desk,
    ids,
    (sound, index) => {
      const planned = batch.plan(sound, index);
      if ('fault' in planned) {
        counts.failing++;
        if (counts.faults.length < MOST_FAULTS)
          counts.faults.push({ id: sound.id, name: sound.path, step: planned.step, message: planned.fault });
      } else if (planned.changed.length === 0) counts.unchanged++;
      else {
        counts.changed++;
        if (keep) plans.push({ sound, values: planned.values });
      }
    },
    (share) => progress(share * (keep ? 0.6 : 1), what),
    keep ? undefined : COUNTED,
  );
  if (!keep || plans.length === 0) return counts;
  progress(0.6, 'Keeping the changes');
  const by = `recipe ${recipe.name}` as const;
  await carryOut(desk, plans, by, { label: `Run ${recipe.name} on ${plans.length} sounds`, by });
  progress(1, 'Done');
  return counts;
}
