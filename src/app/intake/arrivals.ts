import type { Intake } from '@platform/index';
import { count, things } from '../shared/controls/format';

/** What an intake brought, in words; empty when nothing. */
export function arrivalText({
  added,
  changed = 0,
  moved = 0,
  gone = 0,
}: Pick<Intake, 'added' | 'changed' | 'moved' | 'gone'>): string {
  return [
    added > 0 && things(added, 'sound'),
    changed > 0 && `${count(changed)} read again`,
    moved > 0 && `${count(moved)} moved`,
    gone > 0 && `${count(gone)} missing`,
  ]
    .filter(Boolean)
    .join(', ');
}
