import { irregularForms } from './irregular';
import { fold } from './words';

const vowel = /[aeiouy]/;
const homonyms = new Set(
  'ground left felt wound lay found bit saw dove shot lit fell bore leaves made met spoke'.split(' '),
);
const irregular: ReadonlyMap<string, string> = new Map(
  Object.entries({
    tyre: 'tir',
    tyres: 'tir',
    feet: 'foot',
    geese: 'goos',
    mice: 'mous',
    knives: 'knif',
    wolves: 'wolf',
    leaves: 'leaf',
    hooves: 'hoof',
    shelves: 'shelf',
    grey: 'gray',
    aeroplane: 'airplan',
    aluminium: 'aluminum',
    children: 'child',
    men: 'man',
    women: 'woman',
    broke: 'break',
    broken: 'break',
    swung: 'swing',
    threw: 'throw',
    thrown: 'throw',
  }),
);

function undoubled(word: string): string {
  const last = word[word.length - 1];
  return last === word[word.length - 2] && !/[lsz]/.test(last) ? word.slice(0, -1) : word;
}

/**
 * The form in which an English word is compared: without plural, -ing, -ed and final e, American where the two spellings
 * differ. It is no word to show. `sliding`, `slides` and `slide` give `slid`; `harbours` gives `harbor`.
 * @param word folded or not; words of other scripts come back folded
 */
export function stem(word: string): string {
  let w = fold(word);
  const other = irregular.get(w);
  if (other !== undefined) return other;
  // Many a past form is another word as well.
  const base = homonyms.has(w) ? undefined : irregularForms.get(w);
  if (base !== undefined && base !== w) return stem(base);
  if (w.length <= 3 || !/^[a-z]+$/.test(w)) return w;
  if (w.endsWith('ies') && w.length > 4) w = `${w.slice(0, -3)}y`;
  else if (/(s|x|z|ch|sh)es$/.test(w)) w = w.slice(0, -2);
  else if (w.endsWith('s') && !/(ss|us|is)$/.test(w)) w = w.slice(0, -1);
  if (w.endsWith('ie') && w.length > 4) w = `${w.slice(0, -2)}y`;
  for (const ending of ['ing', 'ed']) {
    const rest = w.slice(0, -ending.length);
    if (!w.endsWith(ending) || rest.length < 3 || !vowel.test(rest)) continue;
    w = undoubled(rest);
    break;
  }
  if (/(k|sh|ch)y$/.test(w)) w = w.slice(0, -1);
  if (w.endsWith('our') && w.length > 4) w = `${w.slice(0, -3)}or`;
  else if (/[^aeiou]tre$/.test(w)) w = `${w.slice(0, -2)}er`;
  return w.endsWith('e') && w.length > 3 ? w.slice(0, -1) : w;
}
