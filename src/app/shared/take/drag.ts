const SOUNDS = 'application/x-cormorant-sounds';

/**
 * Lets a drag take sounds along, by their ids.
 * @param file what the desktop gets where they are dropped there; browsers that cannot do that leave it out
 */
export function dragSounds(event: DragEvent, ids: readonly number[], file?: { name: string; url: string }): void {
  event.dataTransfer?.setData(SOUNDS, JSON.stringify(ids));
  dragged = ids;
  letGo = undefined;
  window.addEventListener('dragend', () => (letGo = performance.now()), { once: true });
  const type = file?.name.endsWith('.flac') ? 'audio/flac' : 'audio/wav';
  if (file) event.dataTransfer?.setData('DownloadURL', `${type}:${file.name.replace(/:/g, ' ')}:${file.url}`);
}

let dragged: readonly number[] = [];
/** When the hand let go; nothing while it drags. */
let letGo: number | undefined;
/** The ids of the sounds that a hand of this page drags: what a drag brings is told to nobody else before it is dropped. */
export const draggedSounds = (): readonly number[] => dragged;

/** Milliseconds after which another program does not mean what was let go of any more. */
const MEANT = 3000;
/** The ids of the sounds that a hand of this page drags over another page, or has just let go of there. */
export const draggedAway = (): readonly number[] =>
  letGo === undefined || performance.now() - letGo < MEANT ? dragged : [];

/** Whether a drag brings sounds; which ones is only told when they are dropped. */
export const bringsSounds = (event: DragEvent): boolean => event.dataTransfer?.types.includes(SOUNDS) ?? false;

/** The ids of dropped sounds; undefined when something else was dropped. */
export function droppedSounds(event: DragEvent): number[] | undefined {
  const text = event.dataTransfer?.getData(SOUNDS);
  return text ? (JSON.parse(text) as number[]) : undefined;
}
