import {
  Chase,
  frameRate,
  frameRates,
  fromTimecode,
  fullFrame,
  machineCommand,
  mtcRateOf,
  quarterFrame,
  QuarterFrames,
  quartersBetween,
  readMachine,
  type FrameRate,
} from '@core/scene';
import fc from 'fast-check';

// Timecode and commands of machines over MIDI, as bytes and back.

const told = ['24', '25', '29.97 drop', '30'].map(frameRate);
const rates = fc.constantFrom(...told);
/** Quarter frames since midnight, of the first hours: all that scenes have. */
const numbers = fc.integer({ min: 0, max: 4 * 30 * 3600 * 4 });
const quarter = (n: number, rate: FrameRate) => {
  const read = readMachine(quarterFrame(n, rate));
  if (read?.type !== 'quarter') throw new Error('no quarter frame');
  return read;
};

test('the example of the standard: 01:37:52:16 at 30 frames a second', () => {
  const rate = frameRate('30');
  const first = 4 * fromTimecode('01:37:52:16', rate);
  const bytes = Array.from({ length: 8 }, (_, i) => quarterFrame(first + i, rate)[1]);
  expect(bytes.map((b) => b.toString(16).padStart(2, '0'))).toEqual(['00', '11', '24', '33', '45', '52', '61', '76']);
  expect(fullFrame(fromTimecode('01:37:52:16', rate), rate)).toEqual([
    ...[0xf0, 0x7f, 0x7f, 0x01, 0x01],
    ...[0x61, 37, 52, 16],
    0xf7,
  ]);
  expect(machineCommand({ type: 'play' })).toEqual([0xf0, 0x7f, 0x7f, 0x06, 0x02, 0xf7]);
  expect(machineCommand({ type: 'stop' })).toEqual([0xf0, 0x7f, 0x7f, 0x06, 0x01, 0xf7]);
});

test('every rate of a scene is told by a rate that counts as it does, or half as fast', () => {
  const table = frameRates.map((scene) => `${scene.name}: ${mtcRateOf(scene).rate.name} by ${mtcRateOf(scene).each}`);
  expect(table).toEqual([
    ...[
      '23.976: 24 by 1',
      '24: 24 by 1',
      '25: 25 by 1',
      '29.97: 30 by 1',
      '29.97 drop: 29.97 drop by 1',
      '30: 30 by 1',
    ],
    ...[
      '47.952: 24 by 2',
      '48: 24 by 2',
      '50: 25 by 2',
      '59.94: 30 by 2',
      '59.94 drop: 29.97 drop by 2',
      '60: 30 by 2',
    ],
  ]);
});

test('from wherever one begins to listen, forward or backward, after at most 15 quarter frames each says exactly where it is', () => {
  fc.assert(
    fc.property(rates, numbers, fc.boolean(), (rate, from, backward) => {
      const reader = new QuarterFrames();
      const step = backward ? -1 : 1;
      let known = 0;
      for (let i = 0; i < 40; i++) {
        const n = from + 40 + step * i;
        const position = reader.take(quarter(n, rate), i);
        if (!position) {
          expect(i).toBeLessThan(15);
          continue;
        }
        known++;
        expect(position).toEqual({ frame: n / 4, rate, at: i, direction: step });
      }
      expect(known).toBeGreaterThanOrEqual(25);
    }),
    { numRuns: 300 },
  );
});

test('what is left out, doubled or turned makes it listen anew, and never say what is not so', () => {
  const broken = fc.array(fc.record({ at: fc.nat(60), how: fc.constantFrom('lost', 'twice', 'other') }), {
    maxLength: 4,
  });
  fc.assert(
    fc.property(rates, numbers, broken, (rate, from, faults) => {
      const reader = new QuarterFrames();
      let clean = 0;
      for (let i = 0; i < 80; i++) {
        const own = faults.filter((f) => f.at === i).map((f) => f.how);
        if (own.length > 0) clean = 0;
        if (own.includes('lost')) continue;
        if (own.includes('other')) reader.take(quarter(from + 5000, rate), i);
        const position = reader.take(quarter(from + i, rate), i);
        if (own.includes('twice')) reader.take(quarter(from + i, rate), i);
        clean++;
        if (clean > 16 && own.length === 0) expect(position?.frame).toBe((from + i) / 4);
      }
    }),
    { numRuns: 300 },
  );
});

test('quarter frames between positions are each passed once, whichever steps one takes, both ways', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0.01, max: 3, noNaN: true }), { minLength: 1, maxLength: 20 }),
      fc.boolean(),
      (steps, back) => {
        let at = 100;
        const passed: number[] = [];
        for (const step of steps) {
          const to = back ? at - step : at + step;
          passed.push(...quartersBetween(at, to));
          at = to;
        }
        expect(passed).toEqual(quartersBetween(100, at));
        for (let i = 1; i < passed.length; i++) expect(passed[i] - passed[i - 1]).toBe(back ? -1 : 1);
      },
    ),
  );
});

test('messages come out of their bytes as they went in; no bytes bring the reader down', () => {
  fc.assert(
    fc.property(rates, fc.nat(2_000_000), (rate, frame) => {
      expect(readMachine(fullFrame(frame, rate))).toEqual({ type: 'full', frame, rate });
      const command = { type: 'locate' as const, frame, rate };
      expect(readMachine(machineCommand(command))).toEqual({ type: 'command', command });
    }),
  );
  for (const type of ['play', 'stop', 'pause'] as const)
    expect(readMachine(machineCommand({ type }))).toEqual({ type: 'command', command: { type } });
  fc.assert(
    fc.property(fc.array(fc.nat(255), { maxLength: 16 }), fc.boolean(), (bytes, framed) => {
      readMachine(framed ? [0xf0, 0x7f, 0x7f, ...bytes, 0xf7] : bytes);
    }),
    { numRuns: 2000 },
  );
});

/** Plays quarter frames to a chase as a port does: each a little late. */
function play(chase: Chase, rate: FrameRate, from: number, count: number, start: number, late: (i: number) => number) {
  const each = (1000 * rate.den) / rate.num / 4;
  const jumps: number[] = [];
  for (let i = 0; i < count; i++) if (chase.take(quarter(from + i, rate), start + i * each + late(i))) jumps.push(i);
  return { end: start + (count - 1) * each, each, jumps };
}

test('words that come late by a few milliseconds leave the position within a quarter of a frame; jumps are known, and silence', () => {
  fc.assert(
    fc.property(
      rates,
      numbers,
      fc.array(fc.double({ min: 0, max: 6, noNaN: true }), { minLength: 20, maxLength: 20 }),
      (rate, from, lateness) => {
        const late = (i: number) => lateness[i % lateness.length];
        const chase = new Chase();
        expect(chase.state(0)).toBe('nothing');
        const first = play(chase, rate, from, 60, 1000, late);
        expect(first.jumps.length).toBe(1);
        expect(chase.state(first.end + 10)).toBe('locked');
        const told = chase.positionAt(first.end + 100)!;
        const truth = (from + 59) / 4 + 100 / first.each / 4;
        expect(Math.abs(told - truth)).toBeLessThan(0.25);
        const second = play(chase, rate, from + 4000, 60, first.end + first.each, late);
        expect(second.jumps.length).toBe(1);
        expect(Math.abs(chase.positionAt(second.end)! - (from + 4059) / 4)).toBeLessThan(0.25);
        expect(chase.state(second.end + 260)).toBe('lost');
      },
    ),
    { numRuns: 100 },
  );
});
