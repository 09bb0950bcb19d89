import { facts } from './fact-fields';
import type { Entry, Field } from './field';

export { isNumeric, type Field, type FieldType, type FieldValue } from './field';

/** Fields that people write, and that are nobody's business but this catalogue's. */
const here = new Set(['tags', 'plannedName']);

/** Places of our own in blocks where no standard has one for a field, so that every label goes along with its file. */
function placesFor({ key, edited, read = [] }: Entry): readonly string[] {
  if (!edited || here.has(key)) return read;
  const own = [`iXML.USER.${key.toUpperCase()}`, `ID3.TXXX.${key}`, `vorbis.${key.toUpperCase()}`];
  const has = (place: string) => read.some((r) => r.split('.')[0] === place.split('.')[0]);
  return [...read, ...own.filter((place) => !has(place))];
}

function field(entry: Entry): Field {
  return {
    query: [entry.key.toLowerCase()],
    weight: 0,
    sorted: true,
    faceted: false,
    edited: false,
    ...entry,
    read: placesFor(entry),
  };
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
    label: 'CatID',
    heading: 'Category',
    type: 'choice',
    query: ['catid'],
    weight: 2,
    edited: true,
    faceted: true,
    read: ['iXML.ASWG.catId', 'iXML.USER.CATID', 'ID3.TXXX.CatID', 'vorbis.CATID'],
  }),
  field({
    key: 'category',
    label: 'Category',
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
    edited: true,
    label: 'UserCategory',
    type: 'text',
    query: ['usercategory'],
    weight: 1,
    read: ['iXML.ASWG.userCategory', 'iXML.USER.USERCATEGORY'],
  }),
  field({
    key: 'vendorCategory',
    edited: true,
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
    edited: true,
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
    edited: true,
    label: 'CreatorID',
    type: 'text',
    query: ['creatorid', 'creator'],
    weight: 1,
    read: ['iXML.ASWG.creatorId', 'iXML.USER.CREATORID'],
  }),
  field({
    key: 'author',
    edited: true,
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
    edited: true,
    label: 'SourceID',
    type: 'text',
    query: ['sourceid', 'source'],
    weight: 1,
    read: ['iXML.ASWG.sourceId', 'iXML.USER.SOURCEID'],
  }),
  field({
    key: 'userData',
    edited: true,
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
  field({ key: 'page', edited: true, label: 'Source page', type: 'text', query: ['page'] }),
  field({
    key: 'copyright',
    edited: true,
    label: 'Copyright',
    type: 'text',
    query: ['copyright'],
    read: ['INFO.ICOP', 'XMP.dc:rights', 'AIFF.(c)', 'ID3.TCOP', 'vorbis.COPYRIGHT', 'mp4.cprt'],
  }),
  field({
    key: 'manufacturer',
    edited: true,
    label: 'Publisher',
    type: 'text',
    query: ['publisher', 'manufacturer'],
    weight: 1,
    read: ['iXML.ASWG.manufacturer', 'iXML.USER.MANUFACTURER', 'ID3.TPUB', 'vorbis.ORGANIZATION'],
  }),
  field({
    key: 'project',
    edited: true,
    label: 'Project',
    type: 'text',
    query: ['project'],
    weight: 1,
    read: ['iXML.PROJECT', 'iXML.ASWG.project', 'XMP.xmpDM:projectName'],
  }),
  field({
    key: 'scene',
    edited: true,
    label: 'Scene',
    type: 'text',
    query: ['scene'],
    read: ['iXML.SCENE', 'XMP.xmpDM:scene'],
  }),
  field({
    key: 'take',
    edited: true,
    label: 'Take',
    type: 'text',
    query: ['take'],
    read: ['iXML.TAKE', 'XMP.xmpDM:shotName'],
  }),
  field({ key: 'takeGroup', label: 'Takes of', type: 'text', query: ['takesof'], sorted: false }),
  field({
    key: 'microphone',
    edited: true,
    label: 'Microphone',
    type: 'text',
    query: ['microphone', 'mic'],
    weight: 1,
    read: ['iXML.ASWG.micType', 'iXML.USER.MICROPHONE'],
  }),
  field({
    key: 'perspective',
    edited: true,
    label: 'Recorded as',
    type: 'text',
    query: ['recordedas'],
    read: ['iXML.ASWG.recType', 'iXML.USER.RECTYPE'],
  }),
  field({
    key: 'rootNote',
    edited: true,
    label: 'Root note',
    type: 'number',
    query: ['rootnote'],
    read: ['smpl.MIDIUnityNote', 'inst.UnshiftedNote'],
  }),
  field({ key: 'kind', edited: true, label: 'Kind', type: 'choice', query: ['kind'], faceted: true }),
  field({ key: 'material', label: 'Material', type: 'list', query: ['material'], weight: 2, edited: true }),
  field({ key: 'distance', label: 'Perspective', type: 'text', query: ['perspective'], weight: 1, edited: true }),
  field({ key: 'plannedName', label: 'Planned file name', type: 'text', query: ['plannedname'], edited: true }),
  ...facts.map(field),
  field({ key: 'length', label: 'Length', type: 'number', unit: 's', query: ['length', 'len'] }),
  field({ key: 'channels', label: 'Channels', type: 'number', query: ['channels', 'ch'] }),
  field({ key: 'rate', label: 'Rate', type: 'number', unit: 'Hz', query: ['rate'] }),
  field({ key: 'bits', label: 'Depth', type: 'number', unit: 'bit', query: ['bits', 'depth'] }),
  field({ key: 'format', label: 'Format', type: 'choice', query: ['format', 'type'] }),
  field({
    key: 'recorded',
    edited: true,
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

/** Fields that people write in several languages. */
export const translated: readonly string[] = ['description', 'keywords'];

/** The field and the language (a BCP 47 tag) of a key such as `description@de`; the language is empty without one. */
export function languageOf(key: string): { base: string; language: string } {
  const at = key.indexOf('@');
  return at < 0 ? { base: key, language: '' } : { base: key.slice(0, at), language: key.slice(at + 1) };
}

/** Whether the registry has a field of this key; `description@de` is description in German. */
export function isField(key: string): boolean {
  const { base, language } = languageOf(key);
  return (
    byKey.has(base) &&
    (base === key || (translated.includes(base) && /^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/.test(language)))
  );
}

/** The field of this key. @throws Error for a key that the registry does not have */
export function fieldOf(key: string): Field {
  const found = byKey.get(key);
  if (found) return found;
  if (!isField(key)) throw new Error(`no field is called “${key}”`);
  const { base, language } = languageOf(key);
  const field = byKey.get(base)!;
  const read = placesIn(base, language);
  const own = { ...field, key, label: `${field.label} (${language})`, read, query: [key], faceted: false };
  byKey.set(key, own);
  return own;
}

/** Where a field stands in a further language: no standard has a place for that, so it is one of our own, which others leave alone. */
const placesIn = (base: string, language: string): string[] => [
  `iXML.USER.${base.toUpperCase()}-${language}`,
  `ID3.TXXX.${base}@${language}`,
  `vorbis.${base.toUpperCase()}@${language.toUpperCase()}`,
];
const placeIn = new RegExp(
  `^(?:iXML\\.USER\\.(${translated.join('|')})-|ID3\\.TXXX\\.(${translated.join('|')})@|vorbis\\.(${translated.join('|')})@)(.+)$`,
  'i',
);

/** Fields in further languages that keys or the labels of a file tell of: `description@de`, `iXML.USER.DESCRIPTION-de`. */
export function languageFields(keys: Iterable<string>): Field[] {
  const found = new Set<string>();
  for (const key of keys) {
    if (key.includes('@') && isField(key)) found.add(key);
    const [, first, second, third, tag] = placeIn.exec(key) ?? [];
    if (!tag) continue;
    // Names of comments have no case; tags of languages are written in one way.
    const language = third ? canonical(tag) : tag;
    const own = `${(first ?? second ?? third).toLowerCase()}@${language}`;
    if (isField(own)) found.add(own);
  }
  return [...found].sort().map(fieldOf);
}

function canonical(tag: string): string {
  try {
    return Intl.getCanonicalLocales(tag)[0];
  } catch {
    return tag.toLowerCase();
  }
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
