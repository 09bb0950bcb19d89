import { sluice } from './sluice';
import labels from './sluice-labels.json';

/**
 * The sheet of labels that somebody once made for *Sluice Yard*, as cells: not of all files, one category is wrong (tyres are
 * no metal), one row is of a file that is not there, one description begins like a formula.
 */
export function sluiceSheet(): string[][] {
  const known = labels as Record<string, string[]>;
  const rows = sluice().flatMap((file) => {
    const name = file.path.slice(file.path.lastIndexOf('/') + 1);
    const entry = Object.entries(known).find(([stem]) => name.startsWith(stem));
    return entry ? [[name, entry[1][0], entry[1][1], entry[1][2], 'Sluice Yard']] : [];
  });
  return [
    ['Filename', 'CatID', 'Description', 'Keywords', 'Library'],
    ...rows,
    ['pawlClack_wet-99.wav', 'METLImpt', 'A take that was thrown away', 'pawl', 'Sluice Yard'],
    ['blip_low.wav', '', '=low blip, made for the lantern', 'blip', 'Sluice Yard'],
  ];
}
