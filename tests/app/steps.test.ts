import { fieldOf, isField } from '@core/library';
import { fieldsOf, RecipeRun, ShortNames, type Step } from '@core/naming';
import { checkedFile, validators } from '@core/schemas';
import { lineOf, type Control } from '../../src/app/label/step-layouts';
import { formOptions, sentenceOf, stepKinds, testOptions } from '../../src/app/label/steps';

describe('the menu of steps', () => {
  test('every kind begins as a step that the file format allows and that runs', () => {
    for (const { kind, make } of stepKinds) {
      const step = make();
      expect(step.kind).toBe(kind);
      const file = { format: 'cormorant-recipes', version: 1, recipes: [{ name: kind, steps: [step] }] };
      expect(() => checkedFile(JSON.stringify(file), validators.recipeFile, 'x')).not.toThrow();
      const run = new RecipeRun({ steps: [step] }, new ShortNames([]), isField);
      // What cannot run yet says what is missing.
      for (const fault of run.faults) expect(fault.message).toMatch(/nothing to/);
    }
  });

  test('each new step writes only what people may write', () => {
    for (const { make } of stepKinds)
      for (const key of fieldsOf(make()).writes) expect([key, fieldOf(key).edited]).toEqual([key, true]);
  });

  test('each menu asks for a step of its own', () => {
    const first = stepKinds[0].make();
    first.on = false;
    expect(stepKinds[0].make().on).toBe(true);
  });

  test('conditions and forms are all offered', () => {
    expect(testOptions.map((o) => o.value)).toEqual([
      'is',
      'isNot',
      'contains',
      'lacks',
      'filled',
      'empty',
      'above',
      'below',
    ]);
    expect(formOptions.map((o) => o.value)).toEqual(['lower', 'upper', 'title', 'sentence', 'camel', 'first']);
  });
});

describe('the line of a step', () => {
  test('has a control for every part of every kind, and none for what there is not', () => {
    for (const { kind, make } of stepKinds) {
      const step = make();
      const parts = Object.keys(step).filter((k) => k !== 'kind' && k !== 'on');
      const shown = [step, ...(kind === 'trim' ? [{ ...step, count: 2 } as Step] : [])].flatMap((s) =>
        lineOf(s).flatMap((c) => (typeof c === 'string' ? [] : [c.part])),
      );
      expect([kind, [...new Set(shown)].sort()]).toEqual([kind, parts.sort()]);
    }
  });

  test('controls of one line are told apart by their labels, choices offer what the step holds', () => {
    for (const { kind, make } of stepKinds) {
      const step = make();
      const controls = lineOf(step).filter((c) => typeof c !== 'string');
      const labels = controls.map((c) => c.label);
      expect([kind, new Set(labels).size]).toEqual([kind, labels.length]);
      for (const { as, part, options, get } of controls) {
        if (as !== 'choice') continue;
        const value = (step as unknown as Record<string, unknown>)[part];
        expect(options!.map((o) => o.value)).toContain(get ? get(value) : value);
      }
    }
  });

  test('trimming spaces becomes trimming characters and back', () => {
    const what = (step: Step) => lineOf(step).find((c) => typeof c !== 'string' && c.label === 'what') as Control;
    const trim = stepKinds.find((k) => k.kind === 'trim')!.make();
    expect(what(trim).get!(0)).toBe('spaces');
    expect(what(trim).set!('characters')).toBe(1);
    expect(what({ ...trim, count: 3 } as Step).get!(3)).toBe('characters');
    expect(what(trim).set!('spaces')).toBe(0);
  });
});

describe('steps in words', () => {
  test.each<[Step, string]>([
    [{ kind: 'copy', on: true, from: 'file', to: 'fxName' }, 'Copy File name to Name'],
    [{ kind: 'set', on: true, to: 'library', text: 'Yard' }, 'Set Library to “Yard”'],
    [{ kind: 'clear', on: true, to: 'notes' }, 'Clear Notes'],
    [{ kind: 'trim', on: true, to: 'fxName', side: 'end', count: 3 }, 'Take 3 characters off the end of Name'],
    [{ kind: 'trim', on: true, to: 'fxName', side: 'both', count: 0 }, 'Trim both ends of Name'],
    [
      { kind: 'replace', on: true, to: 'fxName', find: '_', with: ' ', matchCase: false, wholeWords: false },
      'Replace “_” with “ ” in Name',
    ],
    [
      { kind: 'pattern', on: true, to: 'fxName', find: '\\d+', with: '', matchCase: false },
      'Replace the pattern \\d+ with “” in Name',
    ],
    [{ kind: 'case', on: true, to: 'fxName', form: 'title' }, 'Put Name into Title Case'],
    [
      { kind: 'number', on: true, to: 'fxName', start: 5, by: 1, digits: 2, place: 'after', join: ' ' },
      'Number Name from 5',
    ],
    [
      { kind: 'split', on: true, from: 'fxName', by: '-', into: ['fxName', 'notes'] },
      'Split Name at “-” into Name, Notes',
    ],
    [{ kind: 'join', on: true, of: ['fxName', 'take'], with: ' ', to: 'notes' }, 'Join Name, Take in Notes'],
    [{ kind: 'pad', on: true, to: 'take', width: 2, with: '0', side: 'start' }, 'Pad Take to 2 characters'],
    [{ kind: 'shortName', on: true, from: 'author', to: 'creatorId', way: 'shorten' }, 'Shorten Author in CreatorID'],
    [{ kind: 'shortName', on: true, from: 'creatorId', to: 'author', way: 'expand' }, 'Expand CreatorID in Author'],
  ])('%j', (step, words) => {
    expect(sentenceOf(step)).toBe(words);
    const held = { ...step, when: { field: 'fxName', test: 'contains' as const, value: 'gate' } };
    expect(sentenceOf(held)).toBe(`${words}, where Name contains gate`);
  });

  test('a condition without a value, and a field that there is not, can be said too', () => {
    const empty: Step = { kind: 'clear', on: true, to: 'notes', when: { field: 'fxName', test: 'empty' } };
    expect(sentenceOf(empty)).toBe('Clear Notes, where Name is empty');
    expect(sentenceOf({ kind: 'clear', on: true, to: 'nosuch' })).toBe('Clear nosuch');
    expect(sentenceOf({ kind: 'clear', on: true, to: '' })).toBe('Clear …');
  });
});
