import { contourCode } from '@core/elsewhere';
import type { OpenSound } from '@core/schemas';
import { likeCode, LIKENESS_SIZE } from '@core/search';
import { createHash } from 'node:crypto';

/** An open sound with two files of these bytes. */
export function openSound(more: Partial<OpenSound> = {}, bytes: Uint8Array = new Uint8Array(0)): OpenSound {
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  const file = (ending: string) => ({
    ...{ href: `v1/files/${sha256}.${ending}`, size: bytes.length, sha256, name: `A sound.${ending}` },
  });
  return {
    ...{ id: 'a1', title: 'Ferry bell', author: 'Ines Fallow', description: 'Struck once', tags: ['bell', 'signal'] },
    ...{ licence: 'CC BY 4.0', page: 'https://commons.example/sounds/a1', shared: '2025-01-03T09:30:00.000Z' },
    ...{
      seconds: 2,
      rate: 48_000,
      bits: 24,
      channels: 2,
      anchor: 4800,
      contour: contourCode(Int8Array.of(-9, 7, -3, 2)),
    },
    ...{ like: likeCode(new Int8Array(LIKENESS_SIZE)), original: file('flac'), preview: file('ogg') },
    ...more,
  };
}
