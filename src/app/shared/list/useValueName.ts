import { fieldOf } from '@core/library';
import { categoryName } from '@core/suggest';
import { useLibrary } from '../../stores/library';

/** How a value of a field is called: categories and tags by their names, takes by what they are takes of. */
export function useValueName(): (key: string, value: string) => string {
  const library = useLibrary();
  return (key, value) => {
    if (value === '') return `No ${fieldOf(key).label.toLowerCase()}`;
    if (key === 'catId') return categoryName(value);
    if (key === 'tags') return library.tags.find((t) => String(t.id) === value)?.name ?? value;
    return key === 'takeGroup' ? value.slice(value.lastIndexOf('/') + 1) : value;
  };
}
