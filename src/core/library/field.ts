/** How a field's value is kept. */
export type FieldType = 'text' | 'longtext' | 'list' | 'tags' | 'number' | 'stars' | 'date' | 'choice';

/** What a field may hold; absent when unknown. Lists of words for `list`, tag ids for `tags`, numbers else or text. */
export type FieldValue = string | number | readonly string[] | readonly number[];

/** One field of a sound: the single place that says how it is called, kept, read, searched, shown and edited. */
export interface Field {
  key: string;
  label: string;
  /** What stands over its values where they are shown in words, if that is not the label. */
  heading?: string;
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

/** A field as the registry says it: what is left out has a usual value. */
export type Entry = Partial<Field> & Pick<Field, 'key' | 'label' | 'type'>;

/** Whether a field holds numbers or dates, which are compared by size. */
export const isNumeric = ({ type }: Pick<Field, 'type'>): boolean =>
  type === 'number' || type === 'stars' || type === 'date';
