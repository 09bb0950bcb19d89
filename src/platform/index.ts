/** The browser behind small interfaces. */
export type { Catalogue, Changed, HistoryEntry, SmallTable, UndoState } from './catalogue';
export type { Place } from './places';
export type { HeardDay } from './heard';
export type { FirstAnswer, Search, SearchRest } from './searcher';
export type { FactsRecord, Intake, JournalEntry, PeaksRecord, Play, Problem, RootRecord } from './store';
export type { BackupFacts } from './labelling/backup';
export type { ComposedName, ParsedName } from './labelling/names';
export type { PreviewRow, RecipeCounts } from './labelling/recipes';
export type { Decision, ReviewRow } from './labelling/review';
export type { SheetFacts, SheetFormat, SheetMatch } from './labelling/sheets';
export type { RunningLabeller } from './workers';
export type { Conductor, RootWork, WorkReport } from './conductor';
export type { Loadable } from './loader';
export type { Film, PictureFacts } from './film';
export type { MixAnswer } from './mixer';
export type { Spectrogram } from './viewer';
export type { TakeAnswer, TakeHow, Taken } from './taker';
export { copyIn, listFiles, mediaUrl, RootUnavailable, serverRoots } from './roots';
export { chooseFolder, folderIn, mayWrite, writeInto } from './folders';
export { observeFolder, serverChanges } from './watching';
export {
  startCatalogue,
  startConductor,
  startCopies,
  startFilm,
  startIntake,
  startLabeller,
  startLoader,
  startMixer,
  startTaker,
  startViewer,
} from './workers';
export { Midi, type Instrument, type MidiState } from './midi';
export { Player, RATE } from './player';
