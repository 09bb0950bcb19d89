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

/** The field registry. Columns, panel, query names, facets and checks derive from it; a new field is one entry. */
export const fields: readonly Field[] = [
  field({
    key: 'fxName',
    label: 'Name',
    type: 'text',
    query: ['name', 'fxname'],
    weight: 8,
    edited: true,
    read: ['iXML.ASWG.fxName', 'INFO.INAM', 'AIFF.NAME', 'tag.title'],
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
      'INFO.ICMT',
      'iXML.NOTE',
      'iXML.ASWG.notes',
      'AIFF.ANNO',
      'AIFF.COMT',
      'tag.description',
      'tag.comment',
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
    read: ['iXML.ASWG.catId', 'iXML.USER.CATID'],
  }),
  field({
    key: 'category',
    label: 'Category words',
    type: 'text',
    query: ['category', 'cat'],
    weight: 4,
    read: ['iXML.ASWG.category', 'iXML.USER.CATEGORY', 'INFO.IGNR'],
  }),
  field({
    key: 'subCategory',
    label: 'SubCategory',
    type: 'text',
    query: ['subcategory', 'sub'],
    weight: 4,
    read: ['iXML.ASWG.subCategory', 'iXML.USER.SUBCATEGORY'],
  }),
  field({
    key: 'userCategory',
    label: 'UserCategory',
    type: 'text',
    query: ['usercategory'],
    weight: 1,
    read: ['iXML.ASWG.userCategory'],
  }),
  field({
    key: 'vendorCategory',
    label: 'VendorCategory',
    type: 'text',
    query: ['vendorcategory'],
    weight: 1,
    read: ['iXML.ASWG.vendorCategory'],
  }),
  field({
    key: 'keywords',
    label: 'Keywords',
    type: 'list',
    query: ['keywords', 'keyword'],
    weight: 4,
    edited: true,
    read: ['iXML.USER.KEYWORDS', 'INFO.IKEY', 'tag.keywords'],
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
    read: ['iXML.ASWG.library', 'iXML.USER.LIBRARY', 'INFO.IPRD', 'tag.album'],
  }),
  field({
    key: 'creatorId',
    label: 'CreatorID',
    type: 'text',
    query: ['creatorid', 'creator'],
    weight: 1,
    read: ['iXML.ASWG.creatorId'],
  }),
  field({
    key: 'author',
    label: 'Author',
    type: 'text',
    query: ['author'],
    weight: 1,
    read: ['bext.Originator', 'INFO.IART', 'AIFF.AUTH', 'tag.artist'],
  }),
  field({
    key: 'sourceId',
    label: 'SourceID',
    type: 'text',
    query: ['sourceid', 'source'],
    weight: 1,
    read: ['iXML.ASWG.sourceId'],
  }),
  field({
    key: 'userData',
    label: 'UserData',
    type: 'text',
    query: ['userdata'],
    weight: 1,
    read: ['iXML.ASWG.userData'],
  }),
  field({
    key: 'licence',
    label: 'Licence',
    type: 'choice',
    query: ['licence', 'license'],
    faceted: true,
    edited: true,
  }),
  field({ key: 'kind', label: 'Kind', type: 'choice', query: ['kind'], faceted: true }),
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
    read: ['bext.OriginationDate', 'INFO.ICRD'],
  }),
  field({ key: 'added', label: 'Added', type: 'date', query: ['added'] }),
  field({ key: 'heard', label: 'Heard', type: 'date', query: ['heard'] }),
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
