import { licenceOf, type FieldValue } from '@core/library';
import { credits, creditsCrawl, creditsCsv, creditsMarkdown, isInConflict, struckCue, type Job } from '@core/scene';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

// What licences ask for, and the forms in which it is printed.

/** A cue of the whole of a sound, as it is, and one of its half. */
const cueOf = (soundId: number, more = {}) => ({
  ...struckCue(soundOf(soundId), { id: soundId, sceneId: 5, trackId: 2, gain: 0, at: 100 * soundId }),
  ...more,
});
const libraryOf = (rows: Record<number, Record<string, FieldValue>>) => {
  const sounds = new Map(Object.entries(rows).map(([id, fields]) => [Number(id), soundOf(Number(id), fields)]));
  return (id: number) => sounds.get(id);
};

test.each([
  ['CC BY 3.0', true, true, undefined, undefined, 'https://creativecommons.org/licenses/by/3.0/'],
  ['CC BY-SA 4.0', true, true, true, undefined, 'https://creativecommons.org/licenses/by-sa/4.0/'],
  ['CC BY-NC-ND 2.5', true, false, undefined, true, 'https://creativecommons.org/licenses/by-nc-nd/2.5/'],
  ['CC0 1.0', false, true, undefined, undefined, 'https://creativecommons.org/publicdomain/zero/1.0/'],
  ['Owned', false, true, undefined, undefined, undefined],
  ['CC BY-XX 4.0', true, false, undefined, undefined, undefined],
  ['From a friend', true, false, undefined, undefined, undefined],
])(
  '%s: whether it asks for credit, may be paid for, is shared alike, stays unchanged',
  (code, credit, commercial, alike, unchanged, url) => {
    const found = licenceOf(code);
    expect([found.credit, found.commercial, found.alike, found.unchanged, found.url]).toEqual([
      credit,
      commercial,
      alike,
      unchanged,
      url,
    ]);
  },
);

const soundFor = libraryOf({
  9: { fxName: '=SUM(A1)', licence: 'CC BY-NC 4.0', description: 'Heron. Credit: Marram Field Recordings.' },
  10: { fxName: 'Żuraw', licence: 'Owned', author: 'Tidewrack Audio' },
  11: { fxName: 'Thump' },
  12: { fxName: 'Reeds [wide]', licence: 'CC BY-SA 4.0', author: 'Marram Field Recordings' },
  13: { fxName: 'Bell', licence: 'CC BY-ND 4.0', author: 'Ada_Moor' },
});
const cues = [9, 9, 9, 10, 11, 12, 13, 77].map((id, i) => cueOf(id, i === 1 ? { end: 100 } : {}));

test('each sound once, with what its licence asks for and whether it was changed', () => {
  const lines = credits(cues, soundFor);
  expect(lines.map((l) => [l.sound, l.uses, l.changed])).toEqual([
    ['=SUM(A1)', 3, true],
    ['Żuraw', 1, false],
    ['Thump', 1, false],
    ['Reeds [wide]', 1, false],
    ['Bell', 1, false],
  ]);
  expect(lines[0].credit).toBe('“=SUM(A1)” by Marram Field Recordings, CC BY-NC 4.0, changed');
  const csv = creditsCsv(lines);
  expect(csv.split('\r\n')[1]).toContain("'=SUM(A1)");
  expect(csv.split('\r\n')).toHaveLength(6);
});

test.each<[Job, string[]]>([
  ['commercial', ['Not for commercial work', '', 'No licence', 'The mix would have', 'Nothing may be']],
  ['unpaid', ['', '', 'No licence', 'The mix would have', 'Nothing may be']],
  ['shared alike', ['', '', 'No licence', '', 'Nothing may be']],
])('what speaks against a sound in a job that is %s', (job, wanted) => {
  const found = credits(cues, soundFor, job).map((l) => l.conflict);
  found.forEach((conflict, i) =>
    expect(conflict.startsWith(wanted[i]) && (conflict === '') === (wanted[i] === '')).toBe(true),
  );
});

test('an end crawl goes by author and licence; Markdown takes names as text, whatever stands in them', () => {
  const lines = credits(cues, soundFor);
  expect(creditsCrawl(lines)).toBe(
    [
      'Sounds\n',
      'Marram Field Recordings\n“=SUM(A1)”, changed\nCC BY-NC 4.0, creativecommons.org/licenses/by-nc/4.0\n',
      'Marram Field Recordings\n“Reeds [wide]”\nCC BY-SA 4.0, creativecommons.org/licenses/by-sa/4.0\n',
      'Ada_Moor\n“Bell”\nCC BY-ND 4.0, creativecommons.org/licenses/by-nd/4.0\n',
    ].join('\n'),
  );
  expect(creditsMarkdown(lines).split('\n')[1]).toBe(
    '- “Reeds \\[wide\\]” by Marram Field Recordings, [CC BY\\-SA 4.0](https://creativecommons.org/licenses/by-sa/4.0/)',
  );
  expect([creditsCrawl([]), creditsMarkdown([])]).toEqual(['', '']);
  fc.assert(
    fc.property(fc.string(), (name) => {
      const own = credits([cueOf(20)], libraryOf({ 20: { fxName: `x${name}`, licence: 'CC BY 4.0', author: 'A' } }));
      const made = creditsMarkdown(own);
      expect(made.trimEnd().split('\n')).toHaveLength(1);
      // Nothing of the name is left that could begin a link, an element or code.
      const inside = made.slice(made.indexOf('“'), made.indexOf('” by'));
      expect(inside.replace(/\\./g, '')).not.toMatch(/[[\]<>`*_]/);
    }),
  );
});

test('what somebody allowed is no conflict, says why, and changes nothing of what has to be printed', () => {
  const plain = credits(cues, soundFor);
  const open = plain.filter(isInConflict).map((l) => l.soundId);
  expect(open).toEqual([9, 11, 12, 13]);
  fc.assert(
    fc.property(fc.subarray([9, 10, 11, 12, 13, 500]), fc.string({ minLength: 1 }), (ids, note) => {
      const lines = credits(
        cues,
        soundFor,
        'commercial',
        ids.map((soundId) => ({ soundId, note })),
      );
      expect(lines.filter(isInConflict).map((l) => l.soundId)).toEqual(open.filter((id) => !ids.includes(id)));
      expect(lines.map((l) => [l.credit, l.conflict])).toEqual(plain.map((l) => [l.credit, l.conflict]));
      for (const { soundId, allowed } of lines) expect(allowed).toBe(ids.includes(soundId) ? note : '');
    }),
  );
  const csv = creditsCsv(credits(cues, soundFor, 'commercial', [{ soundId: 9, note: 'asked its author' }]));
  expect(csv).toContain('Not for commercial work; allowed: asked its author');
});

test.each([
  ['https://example.org/heron.', 'https://example.org/heron'],
  ['See <http://example.org/a?b=c>, and https://example.org/z', 'http://example.org/a?b=c'],
  ['https://creativecommons.org/licenses/by/4.0/', undefined],
  ['javascript:alert(1) data:text/html,x file:///etc/passwd', undefined],
  ['https://', undefined],
])('the page of a sound whose labels say “%s”', (description, page) => {
  const soundOfPage = libraryOf({ 9: { fxName: 'Heron', description } });
  expect(credits([cueOf(9)], soundOfPage)[0].page).toBe(page);
});

test('a sound that was built is credited by what it was made of, however deep, once each, and as changed', () => {
  const plain = libraryOf({
    1: { fxName: 'Gull', author: 'Ada', licence: 'CC BY 4.0' },
    2: { fxName: 'Rope', author: 'Bo', licence: 'CC BY-NC 4.0' },
    3: { fxName: 'Built', author: 'Me', licence: 'Owned' },
    4: { fxName: 'Built again', licence: 'Owned' },
  });
  const of: Record<number, number[]> = { 3: [1, 2], 4: [3, 1] };
  const soundFor = (id: number) => {
    const own = plain(id);
    return own && of[id] ? { ...own, built: { of: of[id] } } : own;
  };
  const lines = credits([cueOf(4), cueOf(4, { id: 9 }), cueOf(1)], soundFor);
  expect(lines.map((l) => [l.sound, l.uses, l.changed, l.within])).toEqual([
    ['Gull', 3, true, [4]],
    ['Rope', 2, true, [4]],
  ]);
  expect(lines[1].conflict).not.toBe('');
  // One that is made of something unknown stands for itself beside what is known; rings end.
  of[3] = [1, 77];
  expect(credits([cueOf(3)], soundFor).map((l) => l.sound)).toEqual(['Built', 'Gull']);
  of[3] = [4];
  of[4] = [3];
  expect(credits([cueOf(3)], soundFor).map((l) => l.sound)).toEqual(['Built']);
});
