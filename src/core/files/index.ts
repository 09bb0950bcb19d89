/** Byte sources; the WAV and AIFF families with their label blocks, read and written. */
export * from './source';
export * from './format';
export { decodePcm, eachSpan, readFrames, silencedIn } from './pcm';
export { audioEndings, audioFiles, noSound, quickHashOf, readAudioFile, videoEndings, videoFiles } from './read';
export { readIxml, readXmp, writeIxml, type IxmlTree } from './xml';
export { readId3 } from './id3';
export { readComments } from './flac';
export {
  aroundSamples,
  encodePcm,
  wavPart,
  writeAiff,
  writeWav,
  type Bext,
  type StoredAs,
  type WavLabels,
  type WavPart,
} from './write';
export { encodeFlac, FlacStream } from './flac-write';
export { decodeText, encodeText } from './text';
export { fileKind, type FileKind } from './kinds';
export { mp3Extent, smpbExtent } from './mp3';
export { mp4Timecode, type StartTimecode } from './mp4-timecode';
export { isOggFlac, oggHeads, oggRuns, scanOgg, unwrappedFlac, type OggScan } from './ogg';
export { isShowable, pictureSize } from './picture';
export { planLabels, type FilePlan } from './writing/plan';
export { isAnchor, type Picture, type Wanted } from './writing/wanted';
export {
  changesNothing,
  inverted,
  isMadeBy,
  patchesOf,
  sizeAfter,
  spliced,
  type Patch,
  type Piece,
  type Splice,
} from './writing/splice';
export { fitted } from './writing/wav-blocks';
