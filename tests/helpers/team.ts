import type { TeamSound } from '@core/schemas';
import { createHash } from 'node:crypto';
import { soundOf } from './catalogue';

export const sumOf = (bytes: string) => createHash('sha256').update(bytes).digest('hex');

/** A sound of a team’s library whose file holds some text. */
export function teamSound(path: string, content: string, own: Partial<TeamSound> = {}): TeamSound {
  const { format } = soundOf(1, {});
  return {
    ...{ path, file: sumOf(content), size: content.length, format, fields: { fxName: path }, anchor: 0 },
    ...{ contour: '', like: '', hash: '' },
    ...own,
  };
}
