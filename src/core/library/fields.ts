/** How a field's value is kept. */
export type FieldType = 'text' | 'longtext' | 'list' | 'tags' | 'number' | 'stars' | 'date' | 'choice';

/** What a field may hold; absent when unknown. Lists of words for `list`, tag ids for `tags`, numbers else or text. */
export type FieldValue = string | number | readonly string[] | readonly number[];

/** One field of a sound: the single place that says how it is called, kept, read, searched, shown and edited. */
export interface Field {
  key: string;
  label: string;
  type: FieldType;
  /** Unit behind numbers, such as `s` or `Hz`. */
  unit?: string;
  /** Where it is read from in files, in order of trust; keys as `AudioFile.labels` has them. */
  read: readonly string[];
  /** The names by which a query may call it. */
  query: readonly string[];
  /** Weight of its words in a search; 0 when its words are not searched unless the field is named. */
  weight: number;
  sorted: boolean;
  /** Shown as a facet with counts. */
  faceted: boolean;
  /** May be typed by the user. */
  edited: boolean;
  /** Measured from the audio: its definition in a sentence, shown beside the value. */
  fact?: string;
  /** Digits behind the point when shown. */
  digits?: number;
}

type Entry = Partial<Field> & Pick<Field, 'key' | 'label' | 'type'>;

function field(entry: Entry): Field {
  return {
    read: [],
    query: [entry.key.toLowerCase()],
    weight: 0,
    sorted: true,
    faceted: false,
    edited: false,
    ...entry,
  };
}

/** A number that was measured. */
function fact(entry: Omit<Entry, 'type'>): Field {
  return field({ type: 'number', ...entry });
}

/** The field registry. Columns, panel, query names, facets and checks derive from it; a new field is one entry. */
export const fields: readonly Field[] = [
  field({
    key: 'fxName',
    label: 'Name',
    type: 'text',
    query: ['name', 'fxname'],
    weight: 8,
    edited: true,
    read: [
      'iXML.ASWG.fxName',
      'iXML.USER.FXNAME',
      'XMP.dc:title',
      'INFO.INAM',
      'ID3.TIT2',
      'AIFF.NAME',
      'vorbis.TITLE',
      'mp4.©nam',
    ],
  }),
  field({
    key: 'description',
    label: 'Description',
    type: 'longtext',
    query: ['description', 'text'],
    weight: 3,
    edited: true,
    read: [
      'bext.Description',
      'iXML.BEXT.BWF_DESCRIPTION',
      'iXML.USER.DESCRIPTION',
      'XMP.dc:description',
      'iXML.ASWG.notes',
      'INFO.ICMT',
      'ID3.COMM',
      'ID3.TXXX.description',
      'vorbis.DESCRIPTION',
      'vorbis.COMMENT',
      'mp4.desc',
      'mp4.ldes',
      'mp4.©cmt',
      'iXML.NOTE',
      'INFO.ISBJ',
      'AIFF.ANNO',
      'AIFF.COMT',
    ],
  }),
  field({
    key: 'catId',
    label: 'Category',
    type: 'choice',
    query: ['catid'],
    weight: 2,
    edited: true,
    faceted: true,
    read: ['iXML.ASWG.catId', 'iXML.USER.CATID', 'ID3.TXXX.CatID', 'vorbis.CATID'],
  }),
  field({
    key: 'category',
    label: 'Category words',
    type: 'text',
    query: ['category', 'cat'],
    weight: 4,
    read: [
      'iXML.ASWG.category',
      'iXML.USER.CATEGORY',
      'INFO.IGNR',
      'XMP.xmpDM:genre',
      'ID3.TCON',
      'vorbis.GENRE',
      'mp4.©gen',
    ],
  }),
  field({
    key: 'subCategory',
    label: 'SubCategory',
    type: 'text',
    query: ['subcategory', 'sub'],
    weight: 4,
    read: ['iXML.ASWG.subCategory', 'iXML.USER.SUBCATEGORY', 'vorbis.SUBCATEGORY'],
  }),
  field({
    key: 'userCategory',
    label: 'UserCategory',
    type: 'text',
    query: ['usercategory'],
    weight: 1,
    read: ['iXML.ASWG.userCategory', 'iXML.USER.USERCATEGORY'],
  }),
  field({
    key: 'vendorCategory',
    label: 'VendorCategory',
    type: 'text',
    query: ['vendorcategory'],
    weight: 1,
    read: ['iXML.ASWG.vendorCategory', 'iXML.USER.VENDORCATEGORY'],
  }),
  field({
    key: 'keywords',
    label: 'Keywords',
    type: 'list',
    query: ['keywords', 'keyword'],
    weight: 4,
    edited: true,
    read: ['iXML.USER.KEYWORDS', 'XMP.dc:subject', 'INFO.IKEY', 'ID3.TXXX.keywords', 'vorbis.KEYWORDS', 'mp4.keyw'],
  }),
  field({ key: 'tags', label: 'Tags', type: 'tags', query: ['tag', 'tags'], weight: 5, edited: true }),
  field({ key: 'notes', label: 'Notes', type: 'longtext', query: ['notes', 'note'], weight: 1, edited: true }),
  field({ key: 'stars', label: 'Stars', type: 'stars', query: ['stars'], edited: true }),
  field({
    key: 'library',
    label: 'Library',
    type: 'text',
    query: ['library', 'lib'],
    weight: 1,
    faceted: true,
    read: [
      'iXML.ASWG.library',
      'iXML.USER.LIBRARY',
      'INFO.IPRD',
      'XMP.xmpDM:album',
      'ID3.TALB',
      'vorbis.ALBUM',
      'mp4.©alb',
    ],
  }),
  field({
    key: 'creatorId',
    label: 'CreatorID',
    type: 'text',
    query: ['creatorid', 'creator'],
    weight: 1,
    read: ['iXML.ASWG.creatorId', 'iXML.USER.CREATORID'],
  }),
  field({
    key: 'author',
    label: 'Author',
    type: 'text',
    query: ['author'],
    weight: 1,
    read: [
      'bext.Originator',
      'XMP.dc:creator',
      'INFO.IART',
      'AIFF.AUTH',
      'XMP.xmpDM:artist',
      'ID3.TPE1',
      'vorbis.ARTIST',
      'mp4.©ART',
    ],
  }),
  field({
    key: 'sourceId',
    label: 'SourceID',
    type: 'text',
    query: ['sourceid', 'source'],
    weight: 1,
    read: ['iXML.ASWG.sourceId', 'iXML.USER.SOURCEID'],
  }),
  field({
    key: 'userData',
    label: 'UserData',
    type: 'text',
    query: ['userdata'],
    weight: 1,
    read: ['iXML.ASWG.userData', 'iXML.USER.USERDATA'],
  }),
  field({
    key: 'licence',
    label: 'Licence',
    type: 'choice',
    query: ['licence', 'license'],
    faceted: true,
    edited: true,
  }),
  field({
    key: 'copyright',
    label: 'Copyright',
    type: 'text',
    query: ['copyright'],
    read: ['INFO.ICOP', 'XMP.dc:rights', 'AIFF.(c)', 'ID3.TCOP', 'vorbis.COPYRIGHT', 'mp4.cprt'],
  }),
  field({
    key: 'manufacturer',
    label: 'Publisher',
    type: 'text',
    query: ['publisher', 'manufacturer'],
    weight: 1,
    read: ['iXML.ASWG.manufacturer', 'iXML.USER.MANUFACTURER', 'ID3.TPUB', 'vorbis.ORGANIZATION'],
  }),
  field({
    key: 'project',
    label: 'Project',
    type: 'text',
    query: ['project'],
    weight: 1,
    read: ['iXML.PROJECT', 'iXML.ASWG.project', 'XMP.xmpDM:projectName'],
  }),
  field({ key: 'scene', label: 'Scene', type: 'text', query: ['scene'], read: ['iXML.SCENE', 'XMP.xmpDM:scene'] }),
  field({
    key: 'take',
    label: 'Take',
    type: 'text',
    query: ['take'],
    read: ['iXML.TAKE', 'XMP.xmpDM:shotName'],
  }),
  field({ key: 'stem', label: 'Takes of', type: 'text', query: ['takesof'], sorted: false }),
  field({
    key: 'microphone',
    label: 'Microphone',
    type: 'text',
    query: ['microphone', 'mic'],
    weight: 1,
    read: ['iXML.ASWG.micType', 'iXML.USER.MICROPHONE'],
  }),
  field({
    key: 'perspective',
    label: 'Recorded as',
    type: 'text',
    query: ['recordedas'],
    read: ['iXML.ASWG.recType', 'iXML.USER.RECTYPE'],
  }),
  field({
    key: 'rootNote',
    label: 'Root note',
    type: 'number',
    query: ['rootnote'],
    read: ['smpl.MIDIUnityNote', 'inst.UnshiftedNote'],
  }),
  field({ key: 'kind', label: 'Kind', type: 'choice', query: ['kind'], faceted: true }),
  fact({
    key: 'loudness',
    label: 'Loudness',
    unit: 'LUFS',
    digits: 1,
    query: ['loudness', 'lufs'],
    fact: 'Integrated loudness after ITU-R BS.1770; a sound under 0.4 s counts as one block.',
  }),
  fact({
    key: 'shortTerm',
    label: 'Loudest 3 s',
    unit: 'LUFS',
    digits: 1,
    query: ['shortterm'],
    fact: 'Highest short-term loudness (EBU Tech 3341); of shorter sounds their whole.',
  }),
  fact({
    key: 'loudnessRange',
    label: 'Loudness range',
    unit: 'LU',
    digits: 1,
    query: ['range', 'lra'],
    fact: 'Spread of the short-term loudness (EBU Tech 3342), from 3 s on.',
  }),
  fact({
    key: 'truePeak',
    label: 'True peak',
    unit: 'dBTP',
    digits: 1,
    query: ['truepeak', 'peak'],
    fact: 'Highest value, also between samples (ITU-R BS.1770 annex 2).',
  }),
  fact({
    key: 'noiseFloor',
    label: 'Noise floor',
    unit: 'dBFS',
    digits: 0,
    query: ['noisefloor', 'floor'],
    fact: 'Level of the quietest twentieth of 50 ms stretches between first and last sound.',
  }),
  fact({
    key: 'headSilence',
    label: 'Silence at the head',
    unit: 's',
    digits: 3,
    query: ['headsilence', 'head'],
    fact: 'Time before the sound first comes within 60 dB of its peak.',
  }),
  fact({
    key: 'tailSilence',
    label: 'Silence at the tail',
    unit: 's',
    digits: 3,
    query: ['tailsilence', 'tail'],
    fact: 'Time after the sound was last within 60 dB of its peak.',
  }),
  fact({
    key: 'brightness',
    label: 'Brightness',
    unit: 'Hz',
    digits: 0,
    query: ['brightness', 'bright'],
    fact: 'Where the spectrum balances: its mean frequency weighted by power.',
  }),
  fact({
    key: 'noisiness',
    label: 'Noisiness',
    digits: 2,
    query: ['noisiness', 'flatness'],
    fact: 'Spectral flatness in bands: 0 like a tone, 1 like noise.',
  }),
  fact({
    key: 'pitch',
    label: 'Pitch',
    unit: 'Hz',
    digits: 1,
    query: ['pitch'],
    fact: 'Fundamental on which most of the sound agrees; none for noise.',
  }),
  fact({
    key: 'pitchSure',
    label: 'Pitch is sure',
    digits: 2,
    query: ['pitchsure'],
    fact: 'How periodic the sound is, times the share of it on this pitch; 0 to 1.',
  }),
  fact({
    key: 'onsets',
    label: 'Onsets',
    digits: 0,
    query: ['onsets', 'onset'],
    fact: 'Starts of events inside of the sound.',
  }),
  fact({
    key: 'tempo',
    label: 'Tempo',
    unit: 'BPM',
    digits: 1,
    query: ['tempo', 'bpm'],
    edited: true,
    read: ['iXML.ASWG.tempo', 'XMP.xmpDM:tempo', 'ID3.TBPM', 'vorbis.BPM', 'mp4.tmpo'],
    fact: 'Beats a minute at which the onsets return; often wrong by two: halve or double it.',
  }),
  fact({
    key: 'tempoSure',
    label: 'Tempo is sure',
    digits: 2,
    query: ['temposure'],
    fact: 'How regularly the onsets return after a beat; 0 to 1.',
  }),
  fact({
    key: 'force',
    label: 'Force',
    digits: 0,
    query: ['force'],
    fact: 'How hard it hits, 0 to 100: level, rise, density of onsets and brightness together.',
  }),
  fact({
    key: 'clipped',
    label: 'Clipped',
    unit: 'samples',
    digits: 0,
    query: ['clipped'],
    fact: 'Samples that stay at full scale for three or more.',
  }),
  fact({
    key: 'dc',
    label: 'DC offset',
    unit: '%',
    digits: 2,
    query: ['dc'],
    fact: 'Largest mean of a channel, of full scale.',
  }),
  field({
    key: 'layout',
    label: 'Channel layout',
    type: 'choice',
    query: ['layout'],
    faceted: true,
    fact: 'What the channels are; also stereo that is none: both sides the same, one silent or inverted.',
  }),
  field({ key: 'length', label: 'Length', type: 'number', unit: 's', query: ['length', 'len'] }),
  field({ key: 'channels', label: 'Channels', type: 'number', query: ['channels', 'ch'] }),
  field({ key: 'rate', label: 'Rate', type: 'number', unit: 'Hz', query: ['rate'] }),
  field({ key: 'bits', label: 'Depth', type: 'number', unit: 'bit', query: ['bits', 'depth'] }),
  field({ key: 'format', label: 'Format', type: 'choice', query: ['format', 'type'] }),
  field({
    key: 'recorded',
    label: 'Recorded',
    type: 'date',
    query: ['recorded'],
    read: [
      'bext.OriginationDate',
      'iXML.BEXT.BWF_ORIGINATION_DATE',
      'INFO.ICRD',
      'ID3.TDRC',
      'vorbis.DATE',
      'mp4.©day',
    ],
  }),
  field({ key: 'added', label: 'Added', type: 'date', query: ['added'] }),
  field({ key: 'heard', label: 'Heard', type: 'date', query: ['heard'] }),
  field({ key: 'state', label: 'File', type: 'choice', query: ['state'] }),
  field({ key: 'file', label: 'File name', type: 'text', query: ['file'], weight: 3 }),
  field({ key: 'folder', label: 'Folder', type: 'text', query: ['folder', 'path'], weight: 2 }),
];

const byKey = new Map(fields.map((f) => [f.key, f]));
const byQueryName = new Map(fields.flatMap((f) => f.query.map((name) => [name, f] as const)));

/** The field of this key. @throws Error for a key that the registry does not have */
export function fieldOf(key: string): Field {
  const found = byKey.get(key);
  if (!found) throw new Error(`no field is called “${key}”`);
  return found;
}

/** The field a query means by this name, in any case; undefined when there is none. */
export function fieldByQueryName(name: string): Field | undefined {
  return byQueryName.get(name.toLowerCase());
}

/** A number of a field as it is shown, with its unit. */
export function shownNumber(field: Field, value: number): string {
  const text = value.toFixed(field.digits ?? (Number.isInteger(value) ? 0 : 2));
  return field.unit ? `${text} ${field.unit}` : text;
}
