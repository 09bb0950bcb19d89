import { useEventListener } from '@vueuse/core';

const writing = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.closest('input:not([type="checkbox"]), textarea, [role="dialog"]') !== null;

/** What keys of the computer do while they are played like those of an instrument. */
export interface PlayedKeys {
  /** Whether they are played now, and mean nothing else. */
  armed: () => boolean;
  plays: (code: string) => boolean;
  /** @param time as in `performance.now` */
  press: (code: string, time: number) => void;
  lift: (code: string, time: number) => void;
  /** Escape was pressed. */
  leave: () => void;
}

/** Has keys of the computer played, before all other keys of the screen. @returns lets go of all that are down */
export function usePlayedKeys({ armed, plays, press, lift, leave }: PlayedKeys): () => void {
  const down = new Set<string>();
  useEventListener(
    window,
    'keydown',
    (event) => {
      if (!armed() || event.ctrlKey || event.metaKey || event.altKey || writing(event.target)) return;
      const isEscape = event.key === 'Escape';
      if (!isEscape && !plays(event.code)) return;
      event.preventDefault();
      event.stopPropagation();
      if (isEscape) return leave();
      if (event.repeat || down.has(event.code)) return;
      down.add(event.code);
      press(event.code, event.timeStamp);
    },
    { capture: true },
  );
  useEventListener(
    window,
    'keyup',
    (event) => {
      if (down.delete(event.code)) lift(event.code, event.timeStamp);
    },
    { capture: true },
  );
  const release = () => {
    for (const code of [...down]) lift(code, performance.now());
    down.clear();
  };
  // Keys that go up elsewhere are never heard of.
  useEventListener(window, 'blur', release);
  return release;
}
