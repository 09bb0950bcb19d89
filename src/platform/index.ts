/** The browser behind small interfaces. */
export type { Catalogue, Changed, Search, SearchAnswer, SmallTable, UndoState } from './catalogue';
export type { FactsRecord, Intake, PeaksRecord, Problem, RootRecord } from './store';
export type { Conductor, RootWork, WorkReport } from './conductor';
export type { Loadable } from './loader';
export type { Film, PictureFacts } from './film';
export type { MixAnswer } from './mixer';
export { copyIn, listFiles, mediaUrl, RootUnavailable, serverRoots } from './roots';
export { observeFolder, serverChanges } from './watching';
export {
  startCatalogue,
  startConductor,
  startCopies,
  startFilm,
  startIntake,
  startLoader,
  startMixer,
} from './workers';
export { Player, RATE } from './player';
