import { fieldOf, isField } from '@core/library';
import type { Condition, Step, StepKind } from '@core/naming';

/** The kinds of steps, as the menu names them, each with the step that it begins as. */
export const stepKinds: readonly { kind: StepKind; label: string; make: () => Step }[] = [
  { kind: 'set', label: 'Set a field', make: () => ({ kind: 'set', on: true, to: 'fxName', text: '' }) },
  { kind: 'copy', label: 'Copy a field', make: () => ({ kind: 'copy', on: true, from: 'file', to: 'fxName' }) },
  { kind: 'clear', label: 'Clear a field', make: () => ({ kind: 'clear', on: true, to: 'notes' }) },
  {
    kind: 'trim',
    label: 'Trim',
    make: () => ({ kind: 'trim', on: true, to: 'fxName', side: 'both', count: 0, characters: '' }),
  },
  {
    kind: 'replace',
    label: 'Replace text',
    make: () => ({ kind: 'replace', on: true, to: 'fxName', find: '', with: '', matchCase: false, wholeWords: false }),
  },
  {
    kind: 'pattern',
    label: 'Replace a pattern',
    make: () => ({ kind: 'pattern', on: true, to: 'fxName', find: '', with: '', matchCase: false }),
  },
  { kind: 'case', label: 'Change case', make: () => ({ kind: 'case', on: true, to: 'fxName', form: 'title' }) },
  {
    kind: 'number',
    label: 'Number',
    make: () => ({ kind: 'number', on: true, to: 'fxName', start: 1, by: 1, digits: 2, place: 'after', join: ' ' }),
  },
  {
    kind: 'split',
    label: 'Split a field',
    make: () => ({ kind: 'split', on: true, from: 'fxName', by: ' - ', into: ['fxName', 'notes'] }),
  },
  {
    kind: 'join',
    label: 'Join fields',
    make: () => ({ kind: 'join', on: true, of: ['fxName', 'take'], with: ' ', to: 'description' }),
  },
  {
    kind: 'pad',
    label: 'Pad',
    make: () => ({ kind: 'pad', on: true, to: 'take', width: 2, with: '0', side: 'start' }),
  },
  {
    kind: 'shortName',
    label: 'Look up a short name',
    make: () => ({ kind: 'shortName', on: true, from: 'author', to: 'creatorId', way: 'shorten' }),
  },
];

const name = (key: string) => (isField(key) ? fieldOf(key).label : key || '…');
const names = (keys: readonly string[]) => keys.map(name).join(', ');

const tests: Record<Condition['test'], string> = {
  is: 'is',
  isNot: 'is not',
  contains: 'contains',
  lacks: 'lacks',
  filled: 'has a value',
  empty: 'is empty',
  above: 'is above',
  below: 'is below',
};
export const testOptions = Object.entries(tests).map(([value, label]) => ({ value, label }));

const forms = {
  lower: 'lower case',
  upper: 'upper case',
  title: 'Title Case',
  sentence: 'Sentence case',
  camel: 'camelCase',
  first: 'First letter large',
};
export const formOptions = Object.entries(forms).map(([value, label]) => ({ value, label }));

/** A step as a sentence, for screen readers, the history and the list of recipes. */
export function sentenceOf(step: Step): string {
  const said = () => {
    switch (step.kind) {
      case 'copy':
        return `Copy ${name(step.from)} to ${name(step.to)}`;
      case 'set':
        return `Set ${name(step.to)} to “${step.text}”`;
      case 'clear':
        return `Clear ${name(step.to)}`;
      case 'trim':
        return step.count > 0
          ? `Take ${step.count} characters off the ${step.side} of ${name(step.to)}`
          : `Trim ${step.side === 'both' ? 'both ends' : `the ${step.side}`} of ${name(step.to)}`;
      case 'replace':
        return `Replace “${step.find}” with “${step.with}” in ${name(step.to)}`;
      case 'pattern':
        return `Replace the pattern ${step.find} with “${step.with}” in ${name(step.to)}`;
      case 'case':
        return `Put ${name(step.to)} into ${forms[step.form]}`;
      case 'number':
        return `Number ${name(step.to)} from ${step.start}`;
      case 'split':
        return `Split ${name(step.from)} at “${step.by}” into ${names(step.into)}`;
      case 'join':
        return `Join ${names(step.of)} in ${name(step.to)}`;
      case 'pad':
        return `Pad ${name(step.to)} to ${step.width} characters`;
      case 'shortName':
        return `${step.way === 'shorten' ? 'Shorten' : 'Expand'} ${name(step.from)} in ${name(step.to)}`;
    }
  };
  const { when } = step;
  return when ? `${said()}, where ${name(when.field)} ${tests[when.test]} ${when.value ?? ''}`.trim() : said();
}
