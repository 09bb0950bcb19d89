/** The browser behind small interfaces. */
export type { Catalogue, Changed, Search, SearchAnswer, SmallTable, UndoState } from './catalogue';
export type { Intake, PeaksRecord, Problem, RootRecord } from './store';
export type { Loadable } from './loader';
export type { Film, PictureFacts } from './film';
export type { MixAnswer } from './mixer';
export { copyIn, listFiles, mediaUrl, RootUnavailable, serverRoots, type ListedFile } from './roots';
export { startCatalogue, startFilm, startIntake, startLoader, startMixer } from './workers';
export { Player, RATE } from './player';
