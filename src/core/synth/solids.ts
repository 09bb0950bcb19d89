import type { Family, Settings, Take } from './family';
import { silence, smooth } from './family';
import { Biquad, Drift } from './filters';
import type { MaterialName } from './modal';
import { blow, body, materials, Resonator, ring } from './modal';

/** Seconds at which a run of events falls: `count` of them, `pace` apart, unsteady by `sway`. */
function run(take: Take, settings: Settings, count: number, pace: number, sway: number): number[] {
  const { start = 0.12 } = settings;
  const times: number[] = [];
  let at = start;
  for (let i = 0; i < (settings.count ?? count) && at < take.seconds - 0.05; i++) {
    times.push(at);
    at += (settings.pace ?? pace) * take.random.vary(settings.sway ?? sway);
  }
  return times;
}

/** One body struck once or several times. Settings: pitch (Hz), force, count, pace (s), contact (s). */
function struck(material: MaterialName, pitch: number, contact: number): Family {
  return (take, s) => {
    const { random, rate } = take;
    const out = silence(take);
    const events = run(take, s, 1, 0.5, 0.15);
    const drive = silence(take);
    for (const at of events) {
      blow(
        drive,
        at,
        (s.force ?? 0.7) * random.between(0.75, 1),
        (s.contact ?? contact) * random.vary(0.3),
        rate,
        random,
      );
      // A second, weaker touch: hardly any real blow lands only once.
      if (random.next() < 0.6)
        blow(drive, at + random.between(0.012, 0.05), (s.force ?? 0.7) * 0.25, contact, rate, random);
    }
    ring(out, drive, body(materials[material], (s.pitch ?? pitch) * random.vary(0.06), random), rate);
    ring(out, drive, body(materials.hull, (s.pitch ?? pitch) * 0.31 * random.vary(0.1), random), rate, 0.4);
    return { dry: [out], events };
  };
}

/** A pawl dropping into a ratchet wheel: click of the lift, clack of the tooth, iron and frame ringing. */
const pawl: Family = (take, s) => {
  const { random, rate } = take;
  const drive = silence(take);
  const frame = silence(take);
  const out = silence(take);
  const events = run(take, s, 1, 17 / 24, 0.02);
  const force = s.force ?? 0.8;
  for (const at of events) {
    blow(drive, at, force * random.between(0.8, 1), 0.0004, rate, random);
    blow(frame, at + 0.0006, force * 0.8, 0.002, rate, random);
    if (s.bounce !== 0)
      blow(drive, at + random.between(0.018, 0.034), force * random.between(0.15, 0.35), 0.0004, rate, random);
    blow(drive, at + random.between(0.05, 0.075), force * 0.08, 0.0003, rate, random);
  }
  const pitch = (s.pitch ?? 1150) * random.vary(0.08);
  ring(out, drive, body({ ...materials.iron, decay: 0.28 * (s.ring ?? 1) }, pitch, random), rate, 0.8);
  ring(out, frame, body(materials.timber, pitch * 0.16, random), rate, 0.9);
  ring(out, frame, body(materials.sheet, pitch * 0.34, random), rate, 0.12);
  return { dry: [out], events };
};

/**
 * Friction that sticks and slips: the tension of the pull builds up, lets go in small jumps, and each jump drives the body.
 * Settings: pitch, speed (slips a second), body (0 timber, 1 rope, 2 iron), dry (how sharply it lets go).
 */
const creak: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const drive = silence(take);
  const out = silence(take);
  const strain = new Drift(random, s.sway ?? 3, rate);
  const start = 0.08;
  const end = seconds * random.between(0.78, 0.9);
  const peak = random.between(0.35, 0.6) * seconds;
  let phase = 0;
  let next = random.between(0.6, 1.4);
  /** Where it is first heard: strain builds up in silence. */
  let heard: number | undefined;
  for (let i = Math.round(start * rate); i < end * rate; i++) {
    const t = i / rate;
    const pull = smooth(t, start, peak) * (1 - 0.7 * smooth(t, peak, end));
    const speed = (s.speed ?? 70) * (0.12 + pull * (1 + 0.55 * strain.step()));
    phase += Math.max(4, speed) / rate;
    if (phase >= next) {
      phase -= next;
      next = random.between(0.55, 1.5);
      const jump = (0.18 + 0.82 * pull) * random.between(0.35, 1);
      heard ??= t;
      blow(drive, t, jump * 0.5, s.dry ?? 0.0011, rate, random);
    }
  }
  const kind = ([materials.timber, materials.plank, materials.iron] as const)[s.body ?? 0];
  const pitch = (s.pitch ?? 340) * random.vary(0.1);
  ring(out, drive, body(kind, pitch, random), rate, 0.8);
  ring(out, drive, body({ ...kind, decay: 0.05 }, pitch * 2.7, random), rate, 0.35);
  // Rope is hair on hair: the jumps are blurred by fibres, heard as a dry rustle around each.
  if (s.fibre) {
    const band = new Biquad('band', 1700, 0.8, rate);
    let level = 0;
    for (let i = 0; i < out.length; i++) {
      level = Math.max(level * 0.9985, Math.abs(drive[i]));
      out[i] = out[i] * (1 - s.fibre * 0.6) + band.step(random.noise()) * level * s.fibre;
    }
  }
  return { dry: [out], events: [heard ?? start], anchor: peak };
};

/** Something hard drawn over something rough. Settings: pitch, grain (bumps a second), body as in creak. */
const scrape: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const drive = silence(take);
  const out = silence(take);
  const press = new Drift(random, 5, rate);
  for (let t = 0.06; t < seconds * 0.85;) {
    const stroke = Math.max(0, Math.sin((Math.PI * (t - 0.06)) / (seconds * 0.8))) ** 0.6;
    const i = Math.min(drive.length - 1, Math.round(t * rate));
    drive[i] += (0.02 + stroke) * (0.6 + 0.4 * press.step()) * random.noise() * 1.6;
    t += random.wait((s.grain ?? 900) * (0.3 + stroke));
  }
  const kind = ([materials.timber, materials.plank, materials.iron, materials.sheet] as const)[s.body ?? 2];
  ring(out, drive, body(kind, (s.pitch ?? 520) * random.vary(0.1), random), rate, 0.8);
  return { dry: [out], events: [0.06] };
};

/** Links that fall, drag and knock against each other. Settings: pitch, density (knocks a second), force, weight. */
const chain: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const start = 0.07;
  const links = Array.from({ length: 5 }, () => ({
    drive: silence(take),
    modes: body(
      { ...materials.link, decay: 0.16 * (s.weight ?? 1) },
      (s.pitch ?? 1900) * random.between(0.6, 1.7),
      random,
    ),
  }));
  for (let t = start; t < seconds * 0.86;) {
    const swing = s.drop ? Math.exp(-(t - start) * 2.2) : 0.25 + 0.75 * Math.sin((Math.PI * t) / (seconds * 0.9)) ** 2;
    blow(
      random.pick(links).drive,
      t,
      (s.force ?? 0.4) * swing * random.next() ** 2 * 1.5 + 0.02,
      0.00035,
      rate,
      random,
    );
    t += random.wait((s.density ?? 38) * (0.25 + swing));
  }
  if (s.drop) blow(links[0].drive, start, 1.2, 0.0006, rate, random);
  for (const link of links) ring(out, link.drive, link.modes, rate, 0.5);
  return { dry: [out], events: [start] };
};

/** A boot on boards: heel, roll of the sole, toe, and the deck's hollow answer. Settings: count, pace, force, pitch. */
const boots: Family = (take, s) => {
  const { random, rate } = take;
  const drive = silence(take);
  const grit = silence(take);
  const out = silence(take);
  const events = run(take, s, 1, 0.55, 0.06);
  events.forEach((at, i) => {
    const force = (s.force ?? 0.6) * random.between(0.8, 1) * (i % 2 ? 0.9 : 1);
    blow(drive, at, force, 0.004, rate, random);
    blow(drive, at + random.between(0.07, 0.12), force * random.between(0.3, 0.55), 0.006, rate, random);
    const from = Math.round((at + 0.004) * rate);
    for (let k = 0; k < 0.11 * rate && from + k < grit.length; k++) {
      grit[from + k] = random.noise() * force * Math.exp(-k / (0.03 * rate)) * (random.next() < 0.25 ? 1 : 0.12);
    }
  });
  const pitch = (s.pitch ?? 96) * random.vary(0.08);
  ring(out, drive, body({ ...materials.plank, decay: 0.2 }, pitch * 2.3, random), rate, 0.7);
  ring(out, drive, body(materials.hull, pitch, random), rate, 1.1);
  const shoe = new Biquad('band', 2300, 0.7, rate);
  for (let i = 0; i < out.length; i++) out[i] += shoe.step(grit[i]) * 0.5;
  return { dry: [out], events };
};

/** A wooden gate: hinges that creak as it swings, then the latch. Settings: count, pace. */
const gate: Family = (take, s) => {
  const { random, rate } = take;
  const out = silence(take);
  const events: number[] = [];
  for (const at of run(take, { start: 0.1, ...s }, 1, 7, 0.1)) {
    const swing = Math.min(random.between(1.2, 2), take.seconds - at - 0.5);
    if (swing < 0.5) break;
    const pull = creak({ random, rate, seconds: swing }, { pitch: 620, speed: 48, body: 2, dry: 0.0007 });
    const hinge = pull.dry[0];
    const latch = struck('iron', 840, 0.0004)({ random, rate, seconds: 0.9 }, { start: 0.001, force: 0.9 }).dry[0];
    const wood = struck('plank', 180, 0.003)({ random, rate, seconds: 0.9 }, { start: 0.001, force: 0.9 }).dry[0];
    const from = Math.round(at * rate);
    const shut = from + hinge.length;
    for (let i = 0; i < hinge.length && from + i < out.length; i++) out[from + i] += hinge[i] * 0.35;
    for (let i = 0; i < latch.length && shut + i < out.length; i++) out[shut + i] += latch[i] * 0.6 + wood[i] * 0.9;
    events.push(at + pull.events[0], shut / rate);
  }
  return { dry: [out], events };
};

/** A run of struck sounds of one body, for reels: oar locks, links. */
const oarlock: Family = (take, s) => {
  const knock = struck('timber', 210, 0.0025)(take, s);
  const { random, rate } = take;
  const metal = silence(take);
  const drive = silence(take);
  for (const at of knock.events) blow(drive, at + random.between(0.004, 0.02), 0.4, 0.0006, rate, random);
  ring(metal, drive, body({ ...materials.iron, decay: 0.2 }, 700, random), rate, 0.5);
  for (let i = 0; i < metal.length; i++) knock.dry[0][i] += metal[i];
  return knock;
};

/** Hands and oil on a crank: many soft teeth that pass by, the shaft rumbling. Settings: teeth (a second), pitch. */
const crank: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const drive = silence(take);
  const out = silence(take);
  const turn = new Drift(random, 1.3, rate);
  const rub = new Resonator(body(materials.hull, 120, random), rate);
  let phase = 0;
  const events: number[] = [];
  for (let i = Math.round(0.08 * rate); i < (seconds - 0.25) * rate; i++) {
    const speed = (s.teeth ?? 9) * (1 + 0.35 * turn.step()) * smooth(i / rate, 0.02, 0.5);
    phase += Math.max(1.5, speed) / rate;
    if (phase >= 1) {
      phase -= 1;
      events.push(i / rate);
      blow(drive, i / rate, 0.45 * random.between(0.6, 1), 0.0007, rate, random);
    }
    out[i] += rub.step(random.noise() * 0.05 * smooth(speed, 0, s.teeth ?? 9)) * 0.3;
  }
  ring(out, drive, body({ ...materials.iron, decay: 0.14 }, (s.pitch ?? 760) * random.vary(0.1), random), rate, 0.7);
  ring(out, drive, body(materials.timber, 150, random), rate, 0.6);
  return { dry: [out], events };
};

/** Struck, scraped and strained bodies. */
export const solids = {
  woodKnock: struck('timber', 330, 0.0018),
  plankDrop: struck('plank', 150, 0.003),
  ironHit: struck('iron', 480, 0.0005),
  barHit: struck('bar', 620, 0.0004),
  sheetHit: struck('sheet', 190, 0.001),
  latch: struck('iron', 1400, 0.0003),
  glassClink: struck('glass', 1900, 0.0003),
  tyreThump: struck('rubber', 62, 0.016),
  hullKnock: struck('hull', 88, 0.006),
  pawl,
  creak,
  scrape,
  chain,
  boots,
  gate,
  oarlock,
  crank,
} satisfies Record<string, Family>;
