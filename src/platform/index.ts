/** The browser behind small interfaces. */
export type { Catalogue, Changed, Opened, SmallTable } from './catalogue/catalogue';
export type { UndoState } from './catalogue/journal';
export type { HistoryEntry } from './catalogue/history';
export type { Turned } from './catalogue/writer';
export type { Identity, Loss } from './store/identity';
export type { Place } from './finding/places';
export type { HeardDay } from './finding/heard';
export type { FirstAnswer, Search, SearchRest } from './finding/questions';
export type {
  AsideRecord,
  FactsRecord,
  Intake,
  JournalEntry,
  PeaksRecord,
  Play,
  Problem,
  RootRecord,
} from './store/store';
export type { BackupFacts } from './labelling/backup';
export { Gate } from './labelling/desk';
export type { ComposedName, ParsedName } from './labelling/names';
export type { PreviewRow, RecipeCounts } from './labelling/recipes';
export type { Decision, ReviewRow } from './labelling/review';
export type { LookedUp, LookedUpAll, PublishPlan, ToPublish } from './labelling/exchange';
export type { SheetFacts, SheetFormat, SheetMatch } from './labelling/sheets';
export type { RunningLabeller } from './workers';
export type { Conductor } from './intake/conductor';
export type { RootWork, WorkReport } from './intake/work';
export type { Loadable } from './audio/loader';
export type { Film, PictureFacts } from './audio/film';
export type { MadeAudio } from './audio/maker';
export type { MeasureAnswer, MixAnswer, MixReport, StemsAnswer } from './out/mixer';
export type { ProjectAnswer } from './out/projects';
export type { ToArchive } from './out/scene-archive';
export type { ArchivedFile, SceneArchive, Unpacked } from './files/scene-archives';
export type { ReadList } from './files/lists';
export type { Spectrogram } from './audio/viewer';
export type { TakeAnswer, TakeHow, Taken } from './out/taker';
export type { AnchorDecision, AnchorReview, AnchorRow } from './labelling/anchors';
export { isNoRoom } from './store/room';
export type { PublishExtras, Publishing, PublishOutcome, PublishTarget, TakenBack } from './out/publisher';
export type { Lying } from './out/deliverer';
export type { FileWriter } from './out/file-writer';
export type { MadeItem } from './out/file-maker';
export { pictureOf } from './files/picture';
export type { PictureUse, WriteHow, WriteOutcome, WriteProgress, WriteRow } from './out/write-plan';
export { rootLock, underLock, underLocks, WRITING } from './store/locks';
export { whyNotWritten } from './files/disk';
export { fileNameOf } from './files/file-name';
export {
  copyIn,
  dropCopies,
  listFiles,
  mediaUrl,
  sizeOf,
  revealFolder,
  RootUnavailable,
  serverRoots,
} from './files/roots';
export { askToPersist, isPersistent, shelves } from './store/shelves';
export { chooseFolder, folderIn, mayWrite, writeInto } from './files/folders';
export { observeFolder, serverChanges } from './files/watching';
export {
  startCatalogue,
  startConductor,
  startCopies,
  startFileWriter,
  startFilm,
  startIntake,
  startLabeller,
  startListReader,
  startLoader,
  startMaker,
  startMixer,
  startTaker,
  startDeliverer,
  startPublisher,
  startSharer,
  startSlicer,
  startViewer,
} from './workers';
export { Commons, type OpenSounds } from './elsewhere/commons';
export { HostLink, type HostAnswer, type HostConnection, type Workstation } from './elsewhere/host';
export { Team, type SharedLibraries, type TeamPlace } from './elsewhere/team';
export type { Followed } from './team/follower';
export type { FollowedList } from './team/lists';
export type { LeftOut, SharedSounds } from './team/sender';
export { Exchange, type LabelExchange } from './elsewhere/exchange';
export { toldPicture } from './elsewhere/pictures';
export { PublisherKeys, type PublisherKey } from './elsewhere/keys';
export { Elsewhere, knownServices, Service } from './elsewhere/service';
export { Midi, type Instrument, type MidiState } from './audio/midi';
export { MidiLink, type LinkState, type MidiPort } from './audio/midi-link';
export { Player, RATE } from './audio/player';
