import { useLocalStorage } from '@vueuse/core';
import { onMounted, onUnmounted, shallowReactive } from 'vue';

/** What commands are for, in the order in which their keys are listed. */
export const purposes = [
  'Finding',
  'Going through the list',
  'Listening',
  'The waveform',
  'Labelling',
  'Using a sound',
  'The build',
  'The scene',
  'The view',
  'Anywhere',
] as const;
export type Purpose = (typeof purposes)[number];

/** Something that can be done, with the keys that do it. */
export interface Command {
  label: string;
  /** What it is for; that of the list in which it is offered, when absent. */
  purpose?: Purpose;
  /** To begin with, such as `Space`, `ArrowDown`, `Ctrl+z`, `Shift+n`, `/`. The first one is shown. See {@link keysOf}. */
  keys: string[];
  run: () => void;
  /** Keys with Ctrl always work; others only outside of text fields, unless this is set. */
  inText?: boolean;
  /** When it cannot be done now, its key is left to the browser. */
  enabled?: () => boolean;
}

/** Everything that can be done now; commands of the newest screen come first. */
export const commands = shallowReactive<Command[][]>([]);

/** Offers commands while a component is on screen. @param purpose what those are for that do not say so themselves */
export function useCommands(purpose: Purpose, list: Command[]): void {
  const offered = list.map((command) => ({ purpose, ...command }));
  onMounted(() => commands.unshift(offered));
  onUnmounted(() => {
    const at = commands.indexOf(offered);
    if (at >= 0) commands.splice(at, 1);
  });
}

/** Keys that somebody gave to commands, by their labels; a command that is not among them has those to begin with. */
export const ownKeys = useLocalStorage<Record<string, string[]>>('own-keys', {});

const hasOwnKeys = ({ label }: { label: string }) => Object.hasOwn(ownKeys.value, label);

/** The keys that do a command now. */
export const keysOf = (command: Pick<Command, 'label' | 'keys'>): string[] =>
  hasOwnKeys(command) ? ownKeys.value[command.label] : command.keys;

/** All commands of this screen, each label once: that of its newest part. */
export const distinct = (): Command[] =>
  commands.flat().filter((c, i, all) => all.findIndex((other) => other.label === c.label) === i);

/**
 * Gives a command one key instead of those that it has, or none.
 * @returns the commands of this screen that lose that key
 */
export function giveKey(command: Command, key?: string): Command[] {
  const losing = distinct().filter((c) => key !== undefined && c.label !== command.label && keysOf(c).includes(key));
  const kept = losing.map((c) => [c.label, keysOf(c).filter((k) => k !== key)] as const);
  ownKeys.value = { ...ownKeys.value, ...Object.fromEntries(kept), [command.label]: key === undefined ? [] : [key] };
  return losing;
}

/** Gives a command, or all of them, the keys to begin with again. */
export function resetKeys(command?: Command): void {
  ownKeys.value = command
    ? Object.fromEntries(Object.entries(ownKeys.value).filter(([label]) => label !== command.label))
    : {};
}

/** What a control does, with the key of its command behind it: `Play or stop (Space)`. */
export function withKey(text: string, label: string): string {
  const command = commands.flat().find((c) => c.label === label);
  const key = command && keysOf(command)[0];
  return key ? `${text} (${keyLabel(key)})` : text;
}

/** The name of a pressed key as commands spell it. */
export function keyName(event: KeyboardEvent): string {
  const key = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toLowerCase() : event.key;
  // A sign such as ? needs Shift on most keyboards: there the sign alone is the name.
  const sign = event.key.length === 1 && !/[a-z0-9 ]/i.test(event.key);
  const held = [(event.ctrlKey || event.metaKey) && 'Ctrl', event.altKey && 'Alt', event.shiftKey && !sign && 'Shift'];
  return [...held.filter(Boolean), key].join('+');
}

function writesText(name: string, target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  // Where something is chosen and nothing typed, Ctrl Z takes back what was done, not what was written.
  const isUnwritten = (box: HTMLInputElement) => box.readOnly || (box.value === '' && box.matches('[role="combobox"]'));
  if (target instanceof HTMLInputElement && name.startsWith('Ctrl+') && isUnwritten(target)) return false;
  if (target.isContentEditable || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement)
    return true;
  return target instanceof HTMLInputElement && !/^(button|checkbox|radio|range)$/.test(target.type);
}

/** Whether a key belongs to the control that has the focus, as Enter and Space belong to a button. */
function belongsToControl(name: string, target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement) || name.startsWith('Ctrl+')) return false;
  // A list that a screen walks through by its own keys.
  if (target.matches('[role="listbox"][data-keys="screen"]')) return false;
  if (target.closest('[role="dialog"], [role="listbox"], [role="slider"], [role="radiogroup"]')) return true;
  // In a box for numbers they count up and down.
  if (/^(ArrowUp|ArrowDown|PageUp|PageDown)$/.test(name) && target.closest('[role="spinbutton"]')) return true;
  if (name !== 'Enter' && name !== 'Space') return false;
  // On a timeline Space means the scene, whichever of its cues has the focus.
  if (name === 'Space' && target.closest('[data-space="scene"]')) return false;
  // A button that was clicked keeps the focus, unseen; the hand is back on the keys then and means the list.
  const control = target.closest('button, a, [role="button"], [role="option"]');
  return control !== null && (control.tagName !== 'BUTTON' || control.matches(':focus-visible'));
}

/** Runs the command of a pressed key, if there is one. */
export function onKey(event: KeyboardEvent): void {
  if (event.defaultPrevented || event.isComposing) return;
  const name = keyName(event);
  const typing = writesText(name, event.target);
  if (belongsToControl(name, event.target)) return;
  const able = commands
    .flat()
    .filter((c) => keysOf(c).includes(name) && (!typing || c.inText) && (!c.enabled || c.enabled()));
  // A key that somebody chose comes before one that a screen has to begin with.
  const command = able.find(hasOwnKeys) ?? able[0];
  if (!command) return;
  event.preventDefault();
  command.run();
}

const shown: Record<string, string> = { ArrowUp: '↑', ArrowDown: '↓', ArrowLeft: '←', ArrowRight: '→', Escape: 'Esc' };

/** A key as it is written for people. */
export function keyLabel(key: string): string {
  return (
    key
      // The sign itself can be a key.
      .split(/\+(?=.)/)
      .map((part) => shown[part] ?? (part.length === 1 ? part.toUpperCase() : part))
      .join(' ')
  );
}
