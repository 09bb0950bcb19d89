/** Byte sources; the WAV and AIFF families with their label blocks, read and written. */
export * from './source';
export * from './format';
export { decodePcm, eachSpan, readFrames } from './pcm';
export { audioEndings, codedEndings, readAudioFile } from './read';
export { readIxml, writeIxml, type IxmlTree } from './ixml';
export { encodePcm, writeAiff, writeWav, type Bext, type StoredAs, type WavLabels } from './write';
export { decodeText, encodeText } from './text';
