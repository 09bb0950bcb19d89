/** A number with its sign: `+3`, `−0.5`. */
export function signed(value: number, digits: number): string {
  const text = Math.abs(value).toFixed(digits);
  return Number(text) === 0 ? text : `${value < 0 ? '−' : '+'}${text}`;
}

/** A length as an editor reads it: `1.25` seconds, `1:04.2` from a minute on. */
export function seconds(value: number): string {
  if (value < 60) return value.toFixed(2);
  const minutes = Math.floor(value / 60);
  return `${minutes}:${(value - minutes * 60).toFixed(1).padStart(4, '0')}`;
}

const whole = new Intl.NumberFormat('en');

/** A count with thousands separated. */
export function count(value: number): string {
  return whole.format(value);
}

/** Decibels with a sign that lines up: `-9.4 dB`; `-∞` for silence. */
export function decibels(value: number): string {
  return Number.isFinite(value) ? `${value.toFixed(1)} dB` : '-∞ dB';
}

/** A number of things: `1 sound`, `3 sounds`. @param several where an s does not make it: `copies` */
export function things(n: number, word: string, several = `${word}s`): string {
  return `${count(n)} ${n === 1 ? word : several}`;
}

/** Time left, roughly. */
export function timeLeft(s: number): string {
  if (s < 1) return 'under a second left';
  return s < 90 ? `${Math.round(s)} s left` : `${Math.round(s / 60)} min left`;
}

const sizes = ['B', 'KB', 'MB', 'GB', 'TB'];

/** A number of bytes: `812 B`, `4.2 MB`. */
export function bytes(n: number): string {
  const step = n < 1000 ? 0 : Math.min(sizes.length - 1, Math.floor(Math.log10(n) / 3));
  return `${step === 0 ? n : (n / 1000 ** step).toFixed(1)} ${sizes[step]}`;
}

/** A day, `2026-03-14`, as people call it: `today`, `yesterday`, else its date. */
export function dayName(day: string): string {
  const [year, month, date] = day.split('-').map(Number);
  const then = new Date(year, month - 1, date);
  const ago = Math.round((new Date().setHours(0, 0, 0, 0) - then.getTime()) / 86_400_000);
  return ago === 0 ? 'today' : ago === 1 ? 'yesterday' : then.toLocaleDateString();
}

/** How long ago something was: `just now`, `12 minutes ago`, `3 days ago`. */
export function ago(at: number, now = Date.now()): string {
  const minutes = Math.floor((now - at) / 60_000);
  if (minutes < 1) return 'just now';
  if (minutes < 60) return `${things(minutes, 'minute')} ago`;
  const hours = Math.floor(minutes / 60);
  return hours < 48 ? `${things(hours, 'hour')} ago` : `${things(Math.floor(hours / 24), 'day')} ago`;
}

/** With a capital at its beginning. */
export const capital = (text: string): string => `${text.slice(0, 1).toUpperCase()}${text.slice(1)}`;

/** A sentence with its full stop, which what is told in it may have brought along. */
export const ended = (text: string): string => (/[.!?]$/.test(text) ? text : `${text}.`);
