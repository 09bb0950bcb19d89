import type { AudioFile } from '@core/files';
import {
  applyChange,
  changeOf,
  describe as describeFile,
  fieldByQueryName,
  fieldOf,
  fields,
  findLicence,
  invert,
  labelChanges,
  licenceOf,
  sharedValue,
  valueAt,
  type Change,
  type Edit,
  type FoundFile,
  type Sound,
} from '@core/library';
import { baseName, composeUcsName, fold, parseUcsName, readableName, searchWords, splitName } from '@core/naming';
import { categories, categoryName, categoryOf, findCategories, suggestAnchor } from '@core/suggest';
import { EnergyCollector, PeakCollector, peakBetween, spanFor } from '@core/audio';
import { checked, validators } from '@core/schemas';
import fc from 'fast-check';
import { formatOf, soundOf } from '../helpers/catalogue';
import { clicks, sine } from '../helpers/signals';

describe('words and names', () => {
  const names: [string, string[]][] = [
    ['HarborWinchSlow_03-wet', ['Harbor', 'Winch', 'Slow', '03', 'wet']],
    ['pawlClack_wet-07', ['pawl', 'Clack', 'wet', '07']],
    ['MFR-0231 sedge bed', ['MFR', '0231', 'sedge', 'bed']],
    ['IRONDoorXYZSlam96k', ['IRON', 'Door', 'XYZ', 'Slam', '96', 'k']],
    ['Fähre über Öl', ['Fähre', 'über', 'Öl']],
    ['船の音', ['船の音']],
  ];
  test.each(names)('%s splits', (name, words) => expect(splitName(name)).toEqual(words));

  test('every word of a name and its folders finds it', () => {
    const words = new Set([...searchWords('HarborWinchSlow_03-wet.wav'), ...searchWords('Boats/Deck gear')]);
    for (const word of ['harbor', 'winch', 'slow', 'wet', 'boats', 'deck', 'gear', '03', 'harborwinchslow'])
      expect(words).toContain(word);
  });

  test('folding forgets case and accents, twice is once', () => {
    fc.assert(fc.property(fc.string({ unit: 'grapheme' }), (s) => expect(fold(fold(s))).toBe(fold(s))));
    expect(fold('Ångström CAFÉ')).toBe('angstrom cafe');
  });

  test('a name to read is made where there is none', () => {
    expect(readableName('Iron/ratchets/pawlClack_wet-07.wav')).toBe('Pawl clack wet 07');
    expect(readableName('Rope/ropeStretch06_96k-01.wav')).toBe('Rope stretch 06 01');
    expect(readableName('Door 24bit 44.1kHz.wav')).toBe('Door');
    expect(readableName('96k.wav')).toBe('96 k');
    expect(readableName('Route 66 k 48 knots.wav')).toBe('Route 66 k 48 knots');
    expect(readableName('a/???.wav')).toBe('???');
    expect(baseName('x/.hidden')).toBe('.hidden');
  });

  test('UCS names compose and parse back', () => {
    const plain = fc.stringMatching(/^[A-Za-z0-9][A-Za-z0-9 ]{0,18}[A-Za-z0-9]$/);
    const word = fc.stringMatching(/^[A-Za-z0-9]{1,9}$/);
    const name = fc.record(
      { catId: fc.constantFrom('BOATMech', 'WOODMvmt'), fxName: plain, creatorId: word, sourceId: word },
      { requiredKeys: ['catId', 'fxName', 'creatorId', 'sourceId'] },
    );
    const more = fc.record({ userCategory: word, vendorCategory: word, userData: plain }, { requiredKeys: [] });
    fc.assert(
      fc.property(name, more, (n, m) => {
        const whole = { ...n, ...m };
        expect(parseUcsName(`Boats/${composeUcsName(whole)}.wav`, (id) => categoryOf(id) !== undefined)).toEqual(whole);
      }),
    );
    expect(parseUcsName('NOTACat_Name_A_B.wav', (id) => categoryOf(id) !== undefined)).toBeUndefined();
  });
});

describe('the registry', () => {
  test('keys and query names are each used once', () => {
    const names = fields.flatMap((f) => f.query);
    expect(new Set(names).size).toBe(names.length);
    expect(new Set(fields.map((f) => f.key)).size).toBe(fields.length);
    expect(fieldByQueryName('LICENCE')?.key).toBe('licence');
    expect(() => fieldOf('nothing')).toThrow(/nothing/);
  });
});

describe('categories', () => {
  test('every row is whole and every CatID stands once', () => {
    expect(new Set(categories.map((c) => c.catId)).size).toBe(categories.length);
    for (const c of categories) {
      expect(c.catId.startsWith(c.catShort)).toBe(true);
      expect(c.synonyms.length).toBeGreaterThanOrEqual(6);
    }
  });

  test.each([
    ['pawl', 'MECHRtch'],
    ['BOATM', 'BOATMech'],
    ['rowlock', 'BOATRow'],
    ['creak', 'DOORCrek'],
    ['footstep', 'FEETHmn'],
  ])('%s leads to %s', (text, catId) => {
    expect(
      findCategories(text)
        .slice(0, 4)
        .map((c) => c.catId),
    ).toContain(catId);
  });

  test('a CatID reads as words, an unknown one as itself', () => {
    expect([categoryName('BOATMech'), categoryName('XYZ'), categoryName(undefined)]).toEqual([
      'Boats, mechanism',
      'XYZ',
      'No category',
    ]);
  });
});

describe('describing a file', () => {
  const found: FoundFile = {
    rootId: 2,
    rootName: 'Tidewrack',
    path: 'Boats/BOATMech_Winch pawl_TWA_TIDE.wav',
    size: 1,
    modified: 2,
    intakeId: 3,
    now: 4,
  };
  const file = (labels: Record<string, string>, more: Partial<AudioFile> = {}): AudioFile => ({
    format: formatOf(96000),
    labels: new Map(Object.entries(labels)),
    cues: [],
    loops: [],
    warnings: [],
    ...more,
  });
  const of = (labels: Record<string, string>, more?: Partial<AudioFile>, path = found.path) =>
    describeFile(file(labels, more), { ...found, path }, categoryOf);

  test('blocks are trusted in the order of the registry, before the name', () => {
    const sound = of({
      'INFO.INAM': 'Old',
      'iXML.ASWG.fxName': 'Best',
      'bext.Description': 'd',
      'INFO.IKEY': 'a; b, a',
    });
    expect(sound.fields).toMatchObject({
      fxName: 'Best',
      description: 'd',
      keywords: ['a', 'b'],
      catId: 'BOATMech',
      category: 'BOATS',
      subCategory: 'MECHANISM',
      library: 'Tidewrack',
      length: 2,
    });
    expect(sound.from).toMatchObject({
      fxName: 'file iXML.ASWG.fxName',
      catId: 'name',
      library: 'folder',
      length: 'measured',
    });
  });

  test('a name without labels still says what it says', () => {
    expect(of({}).fields).toMatchObject({ fxName: 'Winch pawl', creatorId: 'TWA', sourceId: 'TIDE' });
    expect(of({}, {}, 'Iron/pawlClack_wet-07.wav').fields).toMatchObject({
      fxName: 'Pawl clack wet 07',
      folder: 'Iron',
      take: '07',
      takeGroup: expect.stringMatching(/^\d+\/iron\/pawlclack_wet$/) as unknown,
    });
  });

  test('loops and anchors come from the file', () => {
    const sound = of(
      {},
      {
        cues: [
          { frame: 5, length: 0, label: 'x' },
          { frame: 700, length: 0, label: 'Anchor' },
        ],
        loops: [{ start: 0, end: 9 }],
      },
    );
    expect([sound.marks.anchor, sound.fields.kind]).toEqual([700, 'Loop']);
    expect(of({}).marks.anchor).toBe(-1);
  });

  test.each([
    ['Licence: CC BY-NC 4.0. Credit: X', 'CC BY-NC 4.0'],
    ['cc0', 'CC0 1.0'],
    ['under cc-by-sa 3.0', 'CC BY-SA 3.0'],
    ['Licence: Owned', 'Owned'],
    ['CC BY 4.0', 'CC BY 4.0'],
    ['A soccer ball', undefined],
    ['ACC BYE', undefined],
  ])('%j names the licence %s', (text, licence) => expect(findLicence(text)).toBe(licence));

  test('an unknown licence asks for everything', () => {
    expect(licenceOf(undefined)).toMatchObject({ credit: true, commercial: false });
    expect(of({ 'bext.Description': 'x. Licence: CC BY 4.0' }).fields.licence).toBe('CC BY 4.0');
  });
});

describe('edits', () => {
  const key = fc.constantFrom('fields.fxName', 'fields.notes', 'marks.anchor', 'from.fxName');
  const patch = fc.dictionary(key, fc.oneof(fc.string(), fc.integer(), fc.constant(undefined)), { minKeys: 1 });

  test('the inverse of any run of edits restores every record', () => {
    const row = soundOf(3, { notes: 'x' });
    const step = fc.oneof(
      patch.map((p) => ({ kind: 'set' as const, p })),
      fc.constant({ kind: 'remove' as const }),
      fc.constant({ kind: 'make' as const }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
        const states: (Sound | undefined)[] = [row];
        const edits: Edit[] = [];
        for (const s of steps) {
          const now = states[states.length - 1];
          let change: Change | undefined;
          if (s.kind === 'set' && now) change = changeOf('sounds', now, s.p);
          else if (s.kind === 'remove' && now) change = { table: 'sounds', id: 3, before: { ...now } };
          else if (s.kind === 'make' && !now) change = { table: 'sounds', id: 3, after: { ...row } };
          if (!change) continue;
          edits.push({ label: '', at: 0, undoable: true, changes: [change] });
          states.push(applyChange(now, change));
        }
        let now = states.pop();
        for (const edit of edits.reverse()) {
          for (const c of invert(edit).changes) now = applyChange(now, c);
          expect(now).toEqual(states.pop());
        }
      }),
    );
  });

  test('a change of what is so already is none, and inputs stay as they were', () => {
    const row = soundOf(3);
    expect(changeOf('sounds', row, { 'fields.fxName': 'Sound 3' })).toBeUndefined();
    const change = changeOf('sounds', row, { 'fields.fxName': 'New' })!;
    expect(valueAt(applyChange(row, change)!, 'fields.fxName')).toBe('New');
    expect(row.fields.fxName).toBe('Sound 3');
    expect(applyChange(undefined, change)).toBeUndefined();
  });

  test('labels go to all selected sounds, a CatID with its words, an empty text takes away', () => {
    const rows = [soundOf(1, { notes: 'a' }), soundOf(2, { notes: 'b' }), soundOf(3, { catId: 'BOATMech' })];
    expect(sharedValue(rows, 'notes')).toEqual({ same: false, count: 3 });
    expect(sharedValue(rows.slice(0, 1), 'notes')).toEqual({ same: true, value: 'a' });
    const changes = labelChanges(rows, 'catId', 'BOATMech', categoryOf);
    expect(changes.map((c) => c.id)).toEqual([1, 2]);
    expect(applyChange(rows[0], changes[0])!).toMatchObject({
      fields: { catId: 'BOATMech', category: 'BOATS' },
      from: { catId: 'typed', category: 'typed' },
    });
    expect(applyChange(rows[0], labelChanges(rows, 'notes', '', categoryOf)[0])!.fields).not.toHaveProperty('notes');
    expect(() => labelChanges(rows, 'length', 2, categoryOf)).toThrow(/not edited by hand/);
  });
});

describe('contours and anchors', () => {
  test('a contour holds every sample, in whatever blocks it came', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 9000 }),
        fc.array(fc.integer({ min: 1, max: 3000 }), { minLength: 1 }),
        fc.integer({ min: 1, max: 400 }),
        (frames, blocks, span) => {
          const left = Float32Array.from({ length: frames }, (_, i) => Math.sin(i * i));
          const collector = new PeakCollector(frames, span);
          let at = 0;
          for (const b of [...blocks, frames]) {
            if (at < frames) collector.push([left.subarray(at, at + b)]);
            at += b;
          }
          const peaks = collector.done();
          for (let bin = 0; bin < peaks.pairs.length / 2; bin++) {
            const part = left.subarray(bin * span, (bin + 1) * span);
            const [low, high] = peakBetween(peaks, bin * span, bin * span + part.length);
            expect(Math.abs(low - Math.min(...part))).toBeLessThan(1 / 100);
            expect(Math.abs(high - Math.max(...part))).toBeLessThan(1 / 100);
          }
        },
      ),
      { numRuns: 40 },
    );
    expect(peakBetween({ frames: 10, span: 5, pairs: new Int8Array([1, 2, 3, 4]) }, 20, 30)).toEqual([0, 0]);
    expect(spanFor(48000 * 60, 48000)).toBeLessThanOrEqual(480);
  });

  const anchorOf = (signal: Float32Array) => {
    const energy = new EnergyCollector(48000);
    for (let at = 0; at < signal.length; at += 1000) energy.push([signal.subarray(at, at + 1000)]);
    return suggestAnchor(energy, 48000).frame;
  };

  test('a hit is anchored at its start, a swell at its top, silence at zero', () => {
    const hit = new Float32Array(48000).map((_, i) => (i < 12000 ? 0 : Math.sin(i) * Math.exp(-(i - 12000) / 4000)));
    expect(Math.abs(anchorOf(hit) - 12000)).toBeLessThan(200);
    const swell = sine(300, 48000, 96000).map((x, i) => x * Math.sin((Math.PI * i) / 96000) ** 2);
    expect(Math.abs(anchorOf(swell) - 48000)).toBeLessThan(6000);
    expect(anchorOf(new Float32Array(4800))).toBe(0);
    expect(anchorOf(clicks(48000, [300]))).toBeLessThan(300);
  });
});

test('what comes from outside is checked, and the message says where it is wrong', () => {
  const good = [{ id: 'a', name: 'b' }];
  expect(checked(good, validators.serverRoots, 'the list')).toBe(good);
  expect(() => checked([{ id: 'a' }], validators.serverRoots, 'the list')).toThrow(
    /the list is not as expected: \/0 .*name/,
  );
  expect(() => checked({ format: 'cormorant-project', version: 2 }, validators.projectFile, 'the project')).toThrow(
    /the project/,
  );
});
