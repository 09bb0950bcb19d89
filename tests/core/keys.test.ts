import {
  computerKeys,
  Engine,
  keyName,
  keyRatio,
  Keys,
  MIDDLE_C,
  readMidi,
  rootKey,
  velocityGain,
  type KeyEvent,
} from '@core/engine';
import fc from 'fast-check';
import { crossings, rms, sine } from '../helpers/signals';

const RATE = 48000;

describe('messages of instruments', () => {
  test.each<[string, number[], KeyEvent | undefined]>([
    ['note on, any channel', [0x93, 60, 100], { type: 'press', key: 60, velocity: 100 }],
    ['note on with velocity 0 ends it', [0x90, 60, 0], { type: 'lift', key: 60 }],
    ['note off', [0x8f, 61, 64], { type: 'lift', key: 61 }],
    ['pedal down', [0xb0, 64, 127], { type: 'pedal', down: true }],
    ['pedal up', [0xb0, 64, 63], { type: 'pedal', down: false }],
    ['controller', [0xb1, 20, 5], { type: 'control', control: 20, value: 5 }],
    ['all sound off', [0xb0, 120, 0], { type: 'silence' }],
    ['all notes off', [0xb0, 123, 0], { type: 'silence' }],
    ['clock', [0xf8], undefined],
    ['pitch bend', [0xe0, 0, 64], { type: 'control', control: 129, value: 64 }],
    ['program change', [0xc0, 5], undefined],
    ['data bytes above 127', [0x90, 200, 100], undefined],
    ['nothing', [], undefined],
  ])('%s', (_, bytes, event) => expect(readMidi(Uint8Array.from(bytes))).toEqual(event));

  test('no bytes make it fail', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 6 }), (bytes) => void readMidi(bytes)));
  });

  test('what goes down ends, once, whatever is done with the pedal meanwhile', () => {
    const event = fc.oneof(
      fc.record({ type: fc.constant('press' as const), key: fc.nat(5), velocity: fc.constant(90) }),
      fc.record({ type: fc.constant('lift' as const), key: fc.nat(5) }),
      fc.record({ type: fc.constant('pedal' as const), down: fc.boolean() }),
    );
    fc.assert(
      fc.property(fc.array(event, { maxLength: 40 }), (events) => {
        const keys = new Keys();
        const sounding = new Set<number>();
        for (const e of events) {
          if (e.type === 'press') sounding.add(e.key);
          for (const key of keys.take(e)) expect(sounding.delete(key)).toBe(true);
        }
        keys.take({ type: 'silence' }).forEach((key) => sounding.delete(key));
        expect(sounding.size).toBe(0);
      }),
    );
  });
});

test('keys have names, ratios and a root', () => {
  expect([60, 61, 69, 0, 127].map(keyName)).toEqual(['C4', 'C♯4', 'A4', 'C-1', 'G9']);
  expect(keyRatio(72, 60)).toBe(2);
  expect(keyRatio(53, 60)).toBeCloseTo(0.667, 3);
  expect(rootKey(36, 440)).toBe(36);
  expect(rootKey(undefined, 440)).toBe(69);
  expect(rootKey(undefined, undefined)).toBe(MIDDLE_C);
  // Velocities a decade apart are 40 dB apart.
  expect(20 * Math.log10(velocityGain(127) / velocityGain(12.7))).toBeCloseTo(40, 6);
});

test('the computer’s keys rise by a semitone to the right and a fourth upward, and F is the sound as it is', () => {
  const at = (code: string) => computerKeys.get(code)!;
  expect(at('KeyF')).toBe(0);
  expect(at('KeyG') - at('KeyF')).toBe(1);
  for (const [low, high] of [
    ['KeyZ', 'KeyA'],
    ['KeyA', 'KeyQ'],
    ['KeyQ', 'Digit1'],
  ])
    expect(at(high) - at(low)).toBe(5);
  expect(computerKeys.has('Space') || computerKeys.has('ArrowDown') || computerKeys.has('Escape')).toBe(false);
});

describe('sounds played by keys', () => {
  const frames = RATE * 4;
  function instrument(limit = 32) {
    const engine = new Engine(RATE);
    const plane = sine(220, RATE, frames, 0.1);
    engine.handle({ type: 'material', id: 1, rate: RATE, frames, channels: 1 });
    for (let c = 0; c * 16384 < frames; c++)
      engine.handle({ type: 'chunk', id: 1, index: c, planes: [plane.slice(c * 16384, (c + 1) * 16384)] });
    engine.handle({ type: 'voices', limit });
    const audition = { from: 0, region: { start: 0, end: frames }, loop: false, gain: 0 };
    return {
      engine,
      press: (key: number, gain = 1) =>
        engine.handle({ type: 'note', key, id: 1, audition, note: { ratio: keyRatio(key, 60), gain } }),
      lift: (key: number) => engine.handle({ type: 'note off', key }),
      listen: (count: number) => {
        const left = new Float32Array(count);
        for (let at = 0; at < count; at += 128) {
          const part = Math.min(128, count - at);
          engine.render(left.subarray(at, at + part), new Float32Array(part));
        }
        return left;
      },
    };
  }
  const steepest = (x: Float32Array) => x.reduce((most, v, i) => Math.max(most, Math.abs(v - (x[i - 1] ?? v))), 0);

  test.each([48, 55, 60, 67, 72])('key %d sounds at its pitch', (key) => {
    const { press, listen } = instrument();
    press(key);
    expect(crossings(listen(12000), RATE)).toBeCloseTo(220 * keyRatio(key, 60), 0);
  });

  test('a softer stroke is softer, a key let go dies away without a step, the others go on', () => {
    const { engine, press, lift, listen } = instrument();
    press(60, 0.5);
    press(64, 0.25);
    expect(rms(listen(4800))).toBeCloseTo((0.1 / Math.SQRT2) * Math.hypot(0.5, 0.25), 2);
    lift(60);
    const dying = listen(9600);
    expect(steepest(dying)).toBeLessThan(0.1 * 2 * Math.PI * (280 / RATE) * 1.2);
    expect(engine.status().keys).toEqual([64]);
    expect(rms(dying.subarray(4800))).toBeCloseTo((0.1 / Math.SQRT2) * 0.25, 2);
  });

  test('beyond the limit the oldest gives way, those let go before those held, and nothing clicks', () => {
    const { engine, press, lift, listen } = instrument(3);
    for (const key of [60, 62, 64]) press(key, 0.3);
    listen(2400);
    lift(62);
    press(65, 0.3);
    expect(engine.status().keys).toEqual([60, 64, 65]);
    press(67, 0.3);
    expect(engine.status().keys).toEqual([64, 65, 67]);
    // Four tones of this level make no steeper step by themselves; one that is cut off would.
    expect(steepest(listen(4800))).toBeLessThan(5 * 0.03 * 2 * Math.PI * (330 / RATE));
    expect(listen(4800).length).toBe(4800);
  });

  test('a key whose sound comes late sounds then, if it is still down', () => {
    const engine = new Engine(RATE);
    const audition = { from: 0, region: { start: 0, end: 100 }, loop: false, gain: 0 };
    for (const key of [60, 61]) engine.handle({ type: 'note', key, id: 5, audition, note: { ratio: 1, gain: 1 } });
    engine.handle({ type: 'note off', key: 61 });
    expect(engine.status().keys).toEqual([]);
    engine.handle({ type: 'material', id: 5, rate: RATE, frames: 100, channels: 1 });
    expect(engine.status().keys).toEqual([60]);
    engine.handle({ type: 'chunk', id: 5, index: 0, planes: [new Float32Array(100).fill(0.5)] });
    const left = new Float32Array(128);
    engine.render(left, new Float32Array(128));
    expect(left[0]).toBe(0.5);
  });

  test('all of them end at once when asked', () => {
    const { engine, press, listen } = instrument();
    for (let key = 40; key < 100; key++) press(key, 0.01);
    expect(engine.status().keys).toHaveLength(32);
    listen(256);
    engine.handle({ type: 'notes off' });
    listen(480);
    expect(rms(listen(4800))).toBe(0);
  });
});
