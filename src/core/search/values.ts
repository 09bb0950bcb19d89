import type { Field } from '@core/library';

/** A range of numbers; an open end leaves its limit out. */
export interface Span {
  min: number;
  max: number;
  openMin: boolean;
  openMax: boolean;
}

const units: Record<string, Record<string, number>> = {
  s: { '': 1, s: 1, sec: 1, ms: 0.001, m: 60, min: 60, h: 3600 },
  Hz: { '': 1, hz: 1, k: 1000, khz: 1000 },
  bit: { '': 1, bit: 1 },
  LUFS: { '': 1, lufs: 1, db: 1 },
  LU: { '': 1, lu: 1, db: 1 },
  dBTP: { '': 1, dbtp: 1, db: 1 },
  dBFS: { '': 1, dbfs: 1, db: 1 },
  BPM: { '': 1, bpm: 1 },
  '%': { '': 1, '%': 1 },
  samples: { '': 1, samples: 1 },
};

/** A number with an optional unit of the field; `low` and `high` differ for dates, which are whole days, months or years. */
function parseValue(field: Field, text: string): { low: number; high: number } | undefined {
  if (field.type === 'date') {
    const parts = /^(\d{4})(?:-(\d{1,2})(?:-(\d{1,2}))?)?$/.exec(text);
    if (!parts) return undefined;
    const [year, month, day] = [Number(parts[1]), Number(parts[2] ?? 0), Number(parts[3] ?? 0)];
    const low = Date.UTC(year, (month || 1) - 1, day || 1);
    const high = day ? Date.UTC(year, month - 1, day + 1) : month ? Date.UTC(year, month, 1) : Date.UTC(year + 1, 0, 1);
    return { low, high: high - 1 };
  }
  const parts = /^(-?\d+(?:[.,]\d+)?)\s*([a-z%]*)$/i.exec(text);
  const scale = parts && (units[field.unit ?? ''] ?? { '': 1 })[parts[2].toLowerCase()];
  if (!scale) return undefined;
  const value = Number(parts[1].replace(',', '.')) * scale;
  return { low: value, high: value };
}

function example(field: Field): string {
  if (field.type === 'date') return '>2026-03';
  return field.unit === 's' ? '<2s' : field.unit === 'Hz' ? '48k' : '2';
}

/**
 * Reads the value of a number or date clause: `2`, `<2s`, `>=48k`, `90..120`, `>2026-03`.
 * @returns the range, or a sentence that says what was expected
 */
export function numberSpan(field: Field, text: string): Span | string {
  const wrong = `“${text}” is no value for ${field.label.toLowerCase()}; try ${field.query[0]}:${example(field)}.`;
  const between = text.split('..');
  if (between.length === 2 && text !== '..') {
    const from = between[0] ? parseValue(field, between[0]) : undefined;
    const to = between[1] ? parseValue(field, between[1]) : undefined;
    if ((between[0] && !from) || (between[1] && !to)) return wrong;
    return { min: from?.low ?? -Infinity, max: to?.high ?? Infinity, openMin: false, openMax: false };
  }
  const [, sign, rest] = /^(<=|>=|<|>|=)?(.*)$/.exec(text)!;
  const value = parseValue(field, rest);
  if (!value) return wrong;
  const { low, high } = value;
  switch (sign) {
    case '<':
      return { min: -Infinity, max: low, openMin: false, openMax: true };
    case '<=':
      return { min: -Infinity, max: high, openMin: false, openMax: false };
    case '>':
      return { min: high, max: Infinity, openMin: true, openMax: false };
    case '>=':
      return { min: low, max: Infinity, openMin: false, openMax: false };
    default: {
      // Lengths and the like are measured, not typed: `length:2` means about 2, within what one digit more would round to.
      const slack = field.unit === 's' ? 0.05 : 0;
      return { min: low - slack, max: high + slack, openMin: false, openMax: false };
    }
  }
}

/** Whether a number lies in a range; NaN never does. */
export function inSpan(value: number, span: Span): boolean {
  return (span.openMin ? value > span.min : value >= span.min) && (span.openMax ? value < span.max : value <= span.max);
}
