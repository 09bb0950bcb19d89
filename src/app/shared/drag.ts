const SOUNDS = 'application/x-cormorant-sounds';

/** Lets a drag take sounds along, by their ids. */
export function dragSounds(event: DragEvent, ids: readonly number[]): void {
  event.dataTransfer?.setData(SOUNDS, JSON.stringify(ids));
}

/** Whether a drag brings sounds; which ones is only told when they are dropped. */
export const bringsSounds = (event: DragEvent): boolean => event.dataTransfer?.types.includes(SOUNDS) ?? false;

/** The ids of dropped sounds; undefined when something else was dropped. */
export function droppedSounds(event: DragEvent): number[] | undefined {
  const text = event.dataTransfer?.getData(SOUNDS);
  return text ? (JSON.parse(text) as number[]) : undefined;
}
