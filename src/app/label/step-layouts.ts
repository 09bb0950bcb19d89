import type { Step, StepKind } from '@core/naming';
import { formOptions } from './steps';

/** A control in the line of a step: what it sets, and how it is edited. */
export interface Control {
  /** The part of the step that it shows and sets. */
  part: string;
  /** `field` and `fields` are those that may be written, `any` and `anyFields` all of them. */
  as: 'field' | 'fields' | 'any' | 'anyFields' | 'text' | 'short' | 'number' | 'choice' | 'flag';
  /** For screen readers. */
  label: string;
  options?: readonly { value: string; label: string }[];
  min?: number;
  max?: number;
  hint?: string;
  mono?: boolean;
  /** Where the step keeps it in another form. */
  get?: (value: unknown) => unknown;
  set?: (value: unknown) => unknown;
}

const option = (value: string, label = value) => ({ value, label });
const sides = [option('start'), option('end'), option('both', 'both ends')];
const to = (label = 'field'): Control => ({ part: 'to', as: 'field', label });
const number = (part: string, label: string, min?: number, max?: number): Control => ({
  part,
  as: 'number',
  label,
  min,
  max,
});

type Line = readonly (string | Control)[];
const replaced = (mono: boolean): Line => [
  { part: 'find', as: 'text', label: 'find', mono },
  'with',
  { part: 'with', as: 'text', label: 'replacement', hint: mono ? '$1 is the first bracket' : 'nothing' },
  'in',
  to(),
  { part: 'matchCase', as: 'flag', label: 'match case' },
];

/** The line of each kind of step: words, with controls between them. */
const lines: Record<StepKind, Line> = {
  set: ['Set', to(), 'to', { part: 'text', as: 'text', label: 'text', hint: 'Text, or {field}' }],
  copy: ['Copy', { part: 'from', as: 'any', label: 'from' }, 'to', to('to')],
  clear: ['Clear', to()],
  trim: [],
  replace: ['Replace', ...replaced(false), { part: 'wholeWords', as: 'flag', label: 'whole words' }],
  pattern: ['Replace the pattern', ...replaced(true)],
  case: ['Put', to(), 'into', { part: 'form', as: 'choice', label: 'form', options: formOptions }],
  number: [
    'Put numbers from',
    number('start', 'first number'),
    'by',
    number('by', 'by'),
    'with',
    number('digits', 'digits', 1, 12),
    'digits',
    {
      part: 'place',
      as: 'choice',
      label: 'place',
      options: [option('before'), option('after'), option('instead', 'instead of')],
    },
    to(),
    'with',
    { part: 'join', as: 'short', label: 'between' },
    'between',
  ],
  split: [
    'Split',
    { part: 'from', as: 'any', label: 'field' },
    'at',
    { part: 'by', as: 'short', label: 'at' },
    'into',
    { part: 'into', as: 'fields', label: 'into' },
  ],
  join: [
    'Join',
    { part: 'of', as: 'anyFields', label: 'fields' },
    'with',
    { part: 'with', as: 'short', label: 'between' },
    'in',
    to('to'),
  ],
  pad: [
    'Pad',
    to(),
    'to',
    number('width', 'width', 0, 200),
    'characters with',
    { part: 'with', as: 'short', label: 'with' },
    'at the',
    { part: 'side', as: 'choice', label: 'side', options: sides.slice(0, 2) },
  ],
  shortName: [
    { part: 'way', as: 'choice', label: 'way', options: [option('shorten', 'Shorten'), option('expand', 'Expand')] },
    { part: 'from', as: 'any', label: 'from' },
    'by the table of short names in',
    to('to'),
  ],
};

/** Spaces and signs, or so many characters: a count of 0 stands for the first. */
function trimLine(count: number): Line {
  const what: Control = {
    part: 'count',
    as: 'choice',
    label: 'what',
    options: [option('spaces'), option('characters')],
    get: (n) => (Number(n) > 0 ? 'characters' : 'spaces'),
    set: (v) => (v === 'characters' ? 1 : 0),
  };
  const how: Line =
    count > 0
      ? [number('count', 'how many', 1), what]
      : [what, 'and', { part: 'characters', as: 'short', label: 'further characters' }];
  return ['Take', ...how, 'off', { part: 'side', as: 'choice', label: 'side', options: sides }, 'of', to()];
}

/** What stands in the line of a step. */
export const lineOf = (step: Step): Line => (step.kind === 'trim' ? trimLine(step.count) : lines[step.kind]);
