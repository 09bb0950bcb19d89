import { stem } from '@core/naming';
import { materials } from './trade-words';

/** What is done to materials, by the SubCategories for it. */
const doings: Readonly<Record<string, string>> = {
  IMPACT: 'hit impact drop knock strike struck thud thump bang tap fall throw land slap kick',
  BREAK: 'break snap crack shatter smash split splinter burst',
  FRICTION: 'scrape drag slide grind rub scratch screech sand creak squeak',
  'CRASH & DEBRIS': 'crash crush crumple collapse crunch',
  MOVEMENT: 'rattle shake jingle wobble sway stretch',
  HANDLE: 'handle grab pick put place stack sort rummage',
  TONAL: 'ring resonate chime bow hum',
};
/** The list's category for a material. */
const categoryFor: Readonly<Record<string, string>> = {
  Metal: 'METAL',
  Wood: 'WOOD',
  Glass: 'GLASS',
  Stone: 'ROCKS',
  Earth: 'DIRT & SAND',
  Cloth: 'CLOTH',
  Leather: 'LEATHER',
  Paper: 'PAPER',
  Plastic: 'PLASTIC',
  Rubber: 'RUBBER',
  Rope: 'ROPE',
  Ceramic: 'CERAMICS',
  Ice: 'ICE',
  Snow: 'SNOW',
  Grass: 'VEGETATION',
  Leaves: 'VEGETATION',
};
/** Categories of what is named by its material; other things are made of them. */
export const ofMaterial: ReadonlySet<string> = new Set(Object.values(categoryFor));
/** By the stem of a word for it, the SubCategory of what is done. */
export const doingOf = new Map(
  Object.entries(doings).flatMap(([sub, words]) => words.split(' ').map((w) => [stem(w), sub])),
);
/** What nearly everything can do or have done to it: little ground to tell one category from another. */
export const weak: ReadonlySet<string> = new Set(
  (
    'open clos stop turn roll mov pass pull push throw fall drop hit lift man woman male femal lady cut tabl stat run walk rid tak ' +
    'arriv depart start play work us shut'
  ).split(' '),
);
/** Words for what things do: a name that has no others is of what its folder is named by. */
export const deed = new Set([
  ...weak,
  ...doingOf.keys(),
  ...'shot shoot fire movement swing by cast spin switch'.split(' ').map(stem),
]);
/** Things that are named by their material, but are more than it. */
const things = new Set(
  'chain wire rust sail jacket book newspaper crate bottle pane saddle tyre bush board tile'.split(' '),
);
/** By the stem of a word for a material, its Category. */
export const materialOf = new Map(
  Object.entries(materials).flatMap(([name, words]) =>
    words.filter((w) => !things.has(w)).map((w) => [stem(w), categoryFor[name]] as const),
  ),
);
/** Categories of things that have parts of any material. */
export const made = /^(DOORS|DRAWERS|WINDOWS|CHAINS|MECHANICAL|EXPLOSIONS|BOATS|VEHICLES|TRAINS)$/;
