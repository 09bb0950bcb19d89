import { ARTWORK } from '@core/elsewhere';
import { fieldOf, fields, translated, type Field } from '@core/library';
import { languages } from '@core/suggest';

export interface FieldOption {
  value: string;
  label: string;
}

/** A field by its key, or a text of it in another language (`fxName@de`), as a choice. */
export const asOption = (key: string): FieldOption => ({ value: key, label: fieldOf(key).label });

/** Fields as choices, in the order of the registry; all that people know by name unless told which. */
export const fieldOptions = (wanted: (field: Field) => boolean = (f) => f.key !== 'takeGroup'): FieldOption[] =>
  fields.filter(wanted).map((f) => asOption(f.key));

/** Fields that people write. */
export const writable = fieldOptions((f) => f.edited);

/** Texts in other languages than English. */
export const foreign = translated.flatMap((key) =>
  languages.filter((l) => l !== 'en').map((l) => asOption(`${key}@${l}`)),
);

/** A field that publishers tell, by its key, or a text of it in another language, as people call it. */
export function toldName(key: string): string {
  if (key === ARTWORK) return 'Artwork';
  const [own, language] = key.split('@');
  return language ? `${fieldOf(own).label} (${language})` : fieldOf(own).label;
}

export const byLabel = (a: FieldOption, b: FieldOption): number => a.label.localeCompare(b.label);
