import { ferry, ferryman, gate, heron, lantern, pier, stride, winch } from './cast';
import { CLACKS, FPS, HEIGHT, MOMENT, SHOTS, STEPS, WIDTH } from './events';
import { ease, farShore, fog, glow, reeds, scatter, sky, vignette, water, type Paper } from './night';

/** How brightly the lantern burns at a frame: it catches, settles, flickers, and is turned down. */
function lamp(frame: number): number {
  if (frame < MOMENT.lanternLit || frame >= MOMENT.lanternOut + 3) return 0;
  const caught = 1 + 0.5 * Math.exp(-(frame - MOMENT.lanternLit) / 7);
  const flicker = 0.9 + 0.07 * Math.sin(frame * 0.9) + 0.05 * (scatter(frame, 51) - 0.5);
  return Math.min(1.3, caught * flicker) * (1 - ease(frame, MOMENT.lanternOut - 1, MOMENT.lanternOut + 2));
}

/** Counts events that have passed, with the way to the next one as the fraction: whole numbers fall on event frames. */
function progress(frame: number, events: readonly number[]): number {
  if (frame < events[0]) return Math.max(0, 1 - (events[0] - frame) / 12) - 1;
  const last = events.findLastIndex((e) => e <= frame);
  const next = events[last + 1];
  return last + (next === undefined ? 0 : (frame - events[last]) / (next - events[last]));
}

/** Wide: the ferry at the near pier. The lantern is lit, the rope is cast off, she begins to move. */
function departure(p: Paper, frame: number, t: number): void {
  const horizon = 372;
  sky(p, t, horizon, 930, 150);
  farShore(p, horizon, 0);
  const away = ease(frame, MOMENT.ropeOff + 6, SHOTS[1] + 60) * 60;
  const x = 640 + away;
  const y = 566 + Math.sin(t * 1.1) * 2.5;
  const light = lamp(frame);
  fog(p, t, horizon, 0.5);
  water(p, t, horizon, 930, { x: x - 18, glow: light });
  pier(p, 322, 560, -1);
  ferry(p, x, y, 1, t, light);
  lantern(p, x - 30, y - 42, 0.9, light);
  glow(p, x - 9, y - 42 - 152, 330, light * 0.9);
  const reach = ease(frame, 22, 40) * (1 - ease(frame, 62, 84));
  ferryman(p, x - 62 + 40 * ease(frame, 84, 120) + 96 * ease(frame, 150, 178), y - 44, 0.72, t, { reach });
  // The mooring rope: taut, then flung loose on its frame.
  const loose = ease(frame, MOMENT.ropeOff, MOMENT.ropeOff + 16);
  p.strokeStyle = '#05090c';
  p.lineWidth = 4;
  p.beginPath();
  p.moveTo(318, 486);
  if (frame < MOMENT.ropeOff) p.quadraticCurveTo(358, 516 + 4 * Math.sin(t * 2), x - 240, y - 44);
  else p.quadraticCurveTo(330 + 26 * (1 - loose), 520 + 40 * loose, 322 + 90 * (1 - loose), 530 + 110 * loose);
  p.stroke();
  if (frame >= MOMENT.ropeOff + 10 && frame < MOMENT.ropeOff + 40) {
    const ring = (frame - MOMENT.ropeOff - 10) / 30;
    p.strokeStyle = `rgba(200,222,224,${0.5 * (1 - ring)})`;
    p.lineWidth = 2;
    p.beginPath();
    p.ellipse(330, 642, 14 + 90 * ring, 4 + 18 * ring, 0, 0, 7);
    p.stroke();
  }
  reeds(p, t, 900, WIDTH + 20, 210);
}

/** Close on deck: he walks to the winch and cranks. */
function deck(p: Paper, frame: number, t: number): void {
  const horizon = 318;
  const drift = (frame - SHOTS[1]) * 0.8;
  sky(p, t, horizon, 300, 120);
  farShore(p, horizon, 200 + drift);
  fog(p, t + 40, horizon, 0.75);
  water(p, t, horizon, 300);
  const sway = Math.sin(t * 1.1) * 4;
  p.save();
  p.translate(0, sway);
  p.fillStyle = '#070e13';
  p.fillRect(-10, 556, WIDTH + 20, 200);
  p.strokeStyle = '#13212a';
  p.lineWidth = 2;
  for (let i = 0; i < 16; i++) {
    p.beginPath();
    p.moveTo(i * 92 - 60, 556);
    p.lineTo(i * 92 - 150 + i * 12, HEIGHT + 10);
    p.stroke();
  }
  p.strokeStyle = '#050b10';
  p.lineWidth = 8;
  for (let i = 0; i < 9; i++) {
    p.beginPath();
    p.moveTo(40 + i * 160, 556);
    p.lineTo(40 + i * 160, 452);
    p.stroke();
  }
  p.beginPath();
  p.moveTo(-10, 452);
  p.lineTo(WIDTH + 10, 452);
  p.stroke();
  const light = lamp(frame);
  lantern(p, 560, 600, 1.75, light);
  glow(p, 602, 602 - 296, 620, light);
  // Light that lies on the boards.
  p.fillStyle = `rgba(255,160,80,${0.1 * light})`;
  p.beginPath();
  p.ellipse(600, 640, 420, 58, 0, 0, 7);
  p.fill();
  const walking = progress(frame, STEPS);
  const turning = progress(frame, CLACKS);
  const cranking = frame >= CLACKS[0] - 10;
  const x = cranking ? 872 : 230 + 64 * stride(Math.max(-1, Math.min(9.6, walking)));
  winch(p, 968, 640, 1.5, Math.max(0, turning + 1));
  p.strokeStyle = '#050b10';
  p.lineWidth = 7;
  p.beginPath();
  p.moveTo(990, 560);
  p.lineTo(WIDTH + 20, 520 + 3 * Math.sin(t * 9) * (cranking ? 1 : 0.2));
  p.stroke();
  ferryman(p, x, 640, 1.75, t, cranking ? { crank: turning * 1.9 + 0.4 } : frame < STEPS[9] ? { walk: walking } : {});
  if (cranking) {
    p.strokeStyle = '#050b10';
    p.lineWidth = 9;
    p.beginPath();
    p.moveTo(968, 565);
    const a = turning * 1.9 + 0.4;
    p.lineTo(872 + (52 + Math.cos(a) * 22) * 1.75, 640 + (-62 + 14 + Math.sin(a) * 22) * 1.75);
    p.stroke();
  }
  p.restore();
}

/** Wide, mid-river, in fog: the horn answers from the far side, the heron leaves its post. */
function crossing(p: Paper, frame: number, t: number): void {
  const horizon = 348;
  sky(p, t, horizon, 1010, 112);
  farShore(p, horizon, 420);
  // The horn is seen as well: its lamp on the far bank swells with the call.
  const call = ease(frame, MOMENT.horn, MOMENT.horn + 8) * (1 - ease(frame, MOMENT.horn + 50, MOMENT.horn + 66));
  p.fillStyle = '#142630';
  p.fillRect(706, horizon - 66, 8, 66);
  glow(p, 710, horizon - 68, 60 + 130 * call, 0.25 + 0.75 * call);
  const light = lamp(frame);
  const x = 330 + (frame - SHOTS[2]) * 0.85;
  const y = 520 + Math.sin(t * 1.1) * 2.5;
  fog(p, t + 80, horizon, 1);
  water(p, t, horizon, 1010, { x: x - 10, glow: light });
  p.save();
  p.globalAlpha = 0.94;
  ferry(p, x, y, 0.72, t, light);
  lantern(p, x - 22, y - 30, 0.64, light);
  ferryman(p, x + 90, y - 31, 0.5, t, { crank: frame / 14 });
  p.restore();
  glow(p, x - 8, y - 30 - 108, 260, light * 0.85);
  fog(p, t + 20, horizon + 120, 0.75);
  p.fillStyle = '#040a0e';
  p.fillRect(1002, 470, 22, 260);
  p.fillRect(996, 464, 34, 12);
  heron(p, 1013, 464, (frame - MOMENT.heron) / FPS, t);
  reeds(p, t, -20, 430, 240);
  reeds(p, t + 3, 1080, WIDTH + 20, 180);
}

/** The far pier: the hull meets the tyres, the gate swings, the lantern goes out. */
function landing(p: Paper, frame: number, t: number): void {
  const horizon = 372;
  sky(p, t, horizon, 300, 170);
  farShore(p, horizon, 700);
  const light = lamp(frame);
  const near = ease(frame, SHOTS[3] - 80, MOMENT.tyres) ** 0.8;
  const after = Math.max(0, frame - MOMENT.tyres) / FPS;
  const knock = frame < MOMENT.tyres ? 0 : Math.exp(-after * 2.2) * Math.cos(after * 7) * 9;
  const x = 300 + 304 * near - Math.abs(knock) * 0.8;
  const y = 560 + Math.sin(t * 1.1) * 2.5 + knock * 0.5;
  fog(p, t + 120, horizon, 0.55);
  water(p, t, horizon, 300, { x: x - 18, glow: light });
  // Pushed open: it starts of a sudden and comes to rest by itself.
  const swung = Math.max(0, Math.min(1, (frame - MOMENT.gate) / 26));
  const open = 1 - (1 - swung) ** 2;
  pier(p, 884, 556, 1, Math.max(0, knock));
  gate(p, 1010, 490, open);
  ferry(p, x, y, 1, t, light);
  lantern(p, x - 30, y - 42, 0.9, light);
  glow(p, x - 9, y - 42 - 152, 330, light * 0.9);
  const walk = (frame - 826) / 9;
  const ashore = ease(frame, 826, 900);
  const standing = frame < 826 || frame > 900;
  const reach = ease(frame, MOMENT.lanternOut - 26, MOMENT.lanternOut - 8);
  const back = ease(frame, 900, MOMENT.lanternOut - 26);
  ferryman(
    p,
    x + 40 + 150 * ashore * (1 - back) - 102 * back,
    y - 44,
    0.72,
    t,
    standing && frame < MOMENT.lanternOut - 26 && frame > 900 ? { walk: frame / 9 } : standing ? { reach } : { walk },
  );
  reeds(p, t, -20, 300, 190);
  p.fillStyle = `rgba(2,6,10,${ease(frame, MOMENT.lanternOut + 2, 959) * 0.85})`;
  p.fillRect(0, 0, WIDTH, HEIGHT);
}

/** Draws one frame of *Last Ferry to Heron Point*. */
export function drawFrame(p: Paper, frame: number): void {
  const t = frame / FPS;
  p.clearRect(0, 0, WIDTH, HEIGHT);
  const shot = SHOTS.findLastIndex((s) => s <= frame);
  [departure, deck, crossing, landing][shot](p, frame, t);
  vignette(p);
}
