import { onMounted, onUnmounted, shallowReactive } from 'vue';

/** Something that can be done, with the keys that do it. */
export interface Command {
  label: string;
  /** Such as `Space`, `ArrowDown`, `Ctrl+z`, `Shift+n`, `/`. The first one is shown. */
  keys: string[];
  run: () => void;
  /** Keys with Ctrl always work; others only outside of text fields, unless this is set. */
  inText?: boolean;
  /** When it cannot be done now, its key is left to the browser. */
  enabled?: () => boolean;
}

/** Everything that can be done now; commands of the newest screen come first. */
export const commands = shallowReactive<Command[][]>([]);

/** Offers commands while a component is on screen. */
export function useCommands(list: Command[]): void {
  onMounted(() => commands.unshift(list));
  onUnmounted(() => {
    const at = commands.indexOf(list);
    if (at >= 0) commands.splice(at, 1);
  });
}

/** The name of a pressed key as commands spell it. */
export function keyName(event: KeyboardEvent): string {
  const key = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toLowerCase() : event.key;
  // A sign such as ? needs Shift on most keyboards: there the sign alone is the name.
  const sign = event.key.length === 1 && !/[a-z0-9 ]/i.test(event.key);
  const held = [(event.ctrlKey || event.metaKey) && 'Ctrl', event.altKey && 'Alt', event.shiftKey && !sign && 'Shift'];
  return [...held.filter(Boolean), key].join('+');
}

function writesText(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement)
    return true;
  return target instanceof HTMLInputElement && !/^(button|checkbox|radio|range)$/.test(target.type);
}

/** Whether a key belongs to the control that has the focus, as Enter and Space belong to a button. */
function belongsToControl(name: string, target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement) || name.startsWith('Ctrl+')) return false;
  if (target.closest('[role="dialog"], [role="listbox"], [role="slider"], [role="radiogroup"]')) return true;
  // In a box for numbers they count up and down.
  if (/^(ArrowUp|ArrowDown|PageUp|PageDown)$/.test(name) && target.closest('[role="spinbutton"]')) return true;
  if (name !== 'Enter' && name !== 'Space') return false;
  // A button that was clicked keeps the focus, unseen; the hand is back on the keys then and means the list.
  const control = target.closest('button, a, [role="button"], [role="option"]');
  return control !== null && (control.tagName !== 'BUTTON' || control.matches(':focus-visible'));
}

/** Runs the command of a pressed key, if there is one. */
export function onKey(event: KeyboardEvent): void {
  if (event.defaultPrevented || event.isComposing) return;
  const name = keyName(event);
  const typing = writesText(event.target);
  if (belongsToControl(name, event.target)) return;
  for (const list of commands) {
    for (const command of list) {
      if (!command.keys.includes(name)) continue;
      if (typing && !command.inText) continue;
      if (command.enabled && !command.enabled()) continue;
      event.preventDefault();
      command.run();
      return;
    }
  }
}

const shown: Record<string, string> = { ArrowUp: '↑', ArrowDown: '↓', ArrowLeft: '←', ArrowRight: '→', Escape: 'Esc' };

/** A key as it is written for people. */
export function keyLabel(key: string): string {
  return key
    .split('+')
    .map((part) => shown[part] ?? (part.length === 1 ? part.toUpperCase() : part))
    .join(' ');
}
