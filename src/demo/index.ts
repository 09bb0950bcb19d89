/** The demo: what its libraries hold, and how each file is made. */
import { marram } from './marram';
import type { DemoFile } from './plan';
import { ownRecordings } from './reels';
import { sluice } from './sluice';
import { tidewrack } from './tidewrack';

export { publishedByDemo, publishedEntry, type DemoEntry } from './exchange';
export { commonsEntries, makeOpenSound } from './commons';
export { demoLibraryName, demoPeople, makeTeamSounds } from './team';
export { sluiceSheet } from './sheet';
export { makeFile, type MadeFile } from './make';
export { makeBuilt } from './built';
export type { DemoFile } from './plan';

/** All files of the four demo libraries. */
export function demoFiles(): DemoFile[] {
  return [...tidewrack(), ...marram(), ...sluice(), ...ownRecordings()];
}
