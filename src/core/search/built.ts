import { fields, isNumeric, type Field } from '@core/library';
import { NumberColumn, TagColumn, TextColumn, type Column } from './columns';
import { LIKENESS_VERSION } from './likeness';

/** What a snapshot depends on: fields, how they are kept, which are searched, and by a number how words are cut. */
export const BUILT = `3 ${fields.map((f) => `${f.key} ${f.type} ${f.weight}`).join()} likeness ${LIKENESS_VERSION}`;
/** An empty column for the values of a field. */
export const newColumn = (f: Field): Column =>
  isNumeric(f) ? new NumberColumn() : f.type === 'tags' ? new TagColumn() : new TextColumn(f.type === 'list');
