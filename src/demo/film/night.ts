import { HEIGHT, WIDTH } from './events';

export type Paper = CanvasRenderingContext2D;

/** A number between 0 and 1 that belongs to an index: scatter that is the same in every frame. */
export function scatter(i: number, salt = 0): number {
  const x = Math.sin(i * 127.1 + salt * 311.7 + 7.3) * 43758.5453;
  return x - Math.floor(x);
}

/** 0 before `from`, 1 after `to`, a smooth curve between. */
export function ease(x: number, from: number, to: number): number {
  const t = Math.max(0, Math.min(1, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
}

/** Sky, stars and moon above the horizon. */
export function sky(p: Paper, t: number, horizon: number, moonX: number, moonY: number): void {
  const g = p.createLinearGradient(0, 0, 0, horizon);
  g.addColorStop(0, '#0b1730');
  g.addColorStop(0.55, '#1b3450');
  g.addColorStop(1, '#4d6c78');
  p.fillStyle = g;
  p.fillRect(0, 0, WIDTH, horizon + 2);
  for (let i = 0; i < 120; i++) {
    const y = scatter(i, 1) * horizon * 0.8;
    p.globalAlpha =
      (0.25 + 0.55 * scatter(i, 2)) * (1 - y / horizon) * (0.75 + 0.25 * Math.sin(t * (1 + scatter(i, 3) * 2) + i));
    p.fillStyle = '#dfe9ee';
    const size = scatter(i, 4) > 0.92 ? 2.4 : 1.3;
    p.fillRect(scatter(i) * WIDTH, y, size, size);
  }
  p.globalAlpha = 1;
  const halo = p.createRadialGradient(moonX, moonY, 20, moonX, moonY, 330);
  halo.addColorStop(0, 'rgba(250,224,164,0.55)');
  halo.addColorStop(0.3, 'rgba(214,206,170,0.16)');
  halo.addColorStop(1, 'rgba(214,206,170,0)');
  p.fillStyle = halo;
  p.fillRect(0, 0, WIDTH, horizon);
  p.fillStyle = '#f6dc9c';
  p.beginPath();
  p.arc(moonX, moonY, 40, 0, 7);
  p.fill();
  p.fillStyle = 'rgba(206,170,110,0.35)';
  for (const [dx, dy, r] of [
    [-12, -8, 9],
    [10, 12, 7],
    [14, -14, 5],
    [-4, 18, 4],
  ]) {
    p.beginPath();
    p.arc(moonX + dx, moonY + dy, r, 0, 7);
    p.fill();
  }
}

/** The far bank: low hills, poplars, two lit windows, reflected in mist. */
export function farShore(p: Paper, horizon: number, shift: number): void {
  for (const [depth, colour, height] of [
    [0.35, '#35515c', 46],
    [0.7, '#243c48', 30],
  ] as const) {
    p.fillStyle = colour;
    p.beginPath();
    p.moveTo(0, horizon + 2);
    for (let x = 0; x <= WIDTH; x += 8) {
      const u = (x + shift * depth) / 190;
      const hills = Math.sin(u) * 0.4 + Math.sin(u * 2.3 + 1) * 0.25 + 0.6;
      const tree =
        scatter(Math.floor((x + shift * depth) / 22), depth) > 0.72
          ? 14 + 12 * scatter(Math.floor((x + shift * depth) / 22), 9)
          : 0;
      p.lineTo(x, horizon - height * hills - tree * depth);
    }
    p.lineTo(WIDTH, horizon + 2);
    p.fill();
  }
  p.fillStyle = '#f3c069';
  for (const x of [865, 1012]) p.fillRect(x - shift * 0.7, horizon - 15, 4, 5);
}

/** Water: long strokes of light that lie under the moon and shimmer, dark troughs elsewhere. */
export function water(p: Paper, t: number, horizon: number, moonX: number, lamp?: { x: number; glow: number }): void {
  const g = p.createLinearGradient(0, horizon, 0, HEIGHT);
  g.addColorStop(0, '#3c5c66');
  g.addColorStop(0.16, '#1d3a46');
  g.addColorStop(1, '#07131c');
  p.fillStyle = g;
  p.fillRect(0, horizon, WIDTH, HEIGHT - horizon);
  const depth = HEIGHT - horizon;
  for (let i = 0; i < 190; i++) {
    const d = scatter(i, 5) ** 1.6;
    const y = horizon + 3 + d * depth;
    const spread = 26 + d * 260;
    const sway = Math.sin(t * (0.5 + scatter(i, 6)) + i) * (6 + d * 26);
    const x = moonX + (scatter(i, 7) - 0.5) * 2 * spread + sway;
    const length = (10 + 70 * d) * (0.4 + scatter(i, 8));
    p.globalAlpha = Math.max(0, 0.5 + 0.5 * Math.sin(t * (1.3 + scatter(i, 9) * 2) + i * 3)) * (0.5 - 0.28 * d);
    p.fillStyle = '#f4d998';
    p.fillRect(x - length / 2, y, length, 1.2 + d * 2);
  }
  for (let i = 0; i < 110; i++) {
    const d = scatter(i, 11) ** 1.3;
    const y = horizon + 6 + d * depth;
    const x = ((scatter(i, 12) * WIDTH + t * (4 + 14 * d) + 3000) % (WIDTH + 300)) - 150;
    p.globalAlpha = 0.1 + 0.14 * Math.sin(t * 1.1 + i * 2) ** 2;
    p.fillStyle = i % 3 === 0 ? '#86a9ad' : '#040c12';
    p.fillRect(x, y, 30 + 150 * d, 1 + d * 2.4);
  }
  if (lamp && lamp.glow > 0) {
    for (let i = 0; i < 46; i++) {
      const d = scatter(i, 13);
      const y = horizon + 150 + d * (depth - 160);
      const x = lamp.x + Math.sin(t * 2 + i * 1.7) * (5 + d * 24) + (scatter(i, 14) - 0.5) * 30 * (0.4 + d);
      p.globalAlpha = lamp.glow * (0.34 - 0.25 * d) * (0.5 + 0.5 * Math.sin(t * 3 + i * 5));
      p.fillStyle = '#ff9c3d';
      p.fillRect(x - 12 - 14 * d, y, 24 + 30 * d, 2);
    }
  }
  p.globalAlpha = 1;
}

/** Fog in slow banks. @param amount 0 clear to 1 thick */
export function fog(p: Paper, t: number, horizon: number, amount: number): void {
  for (let i = 0; i < 11; i++) {
    const w = 460 + 500 * scatter(i, 21);
    const h = 34 + 66 * scatter(i, 22);
    const speed = 7 + 17 * scatter(i, 23);
    const x = ((scatter(i, 24) * 2400 + t * speed) % (WIDTH + 2 * w)) - w;
    const y = horizon - 26 + (scatter(i, 25) - 0.35) * 190 * (0.35 + amount);
    p.save();
    p.translate(x, y);
    p.scale(1, h / w);
    const g = p.createRadialGradient(0, 0, 0, 0, 0, w);
    g.addColorStop(0, `rgba(166,190,194,${0.3 * amount})`);
    g.addColorStop(0.6, `rgba(150,176,182,${0.12 * amount})`);
    g.addColorStop(1, 'rgba(150,176,182,0)');
    p.fillStyle = g;
    p.fillRect(-w, -w, 2 * w, 2 * w);
    p.restore();
  }
}

/** Reeds at the near bank, bending together in the wind, seed heads on some. */
export function reeds(p: Paper, t: number, from: number, to: number, height: number): void {
  p.strokeStyle = '#030a0e';
  p.fillStyle = '#030a0e';
  for (let x = from, i = 0; x < to; x += 5 + 6 * scatter(i, 31), i++) {
    const h = height * (0.45 + 0.6 * scatter(i, 32));
    const bend = Math.sin(t * 0.9 + x / 130) * 13 + Math.sin(t * 2.3 + i) * 4 + (scatter(i, 33) - 0.5) * 34;
    p.lineWidth = 1.4 + 1.8 * scatter(i, 34);
    p.beginPath();
    p.moveTo(x, HEIGHT + 4);
    p.quadraticCurveTo(x + bend * 0.2, HEIGHT - h * 0.6, x + bend, HEIGHT - h);
    p.stroke();
    if (scatter(i, 35) > 0.66) {
      p.save();
      p.translate(x + bend, HEIGHT - h);
      p.rotate(bend / 70);
      p.beginPath();
      p.ellipse(0, 0, 3.1, 14, 0, 0, 7);
      p.fill();
      p.restore();
    }
  }
}

/** A warm light and what it does to the air around. */
export function glow(p: Paper, x: number, y: number, radius: number, strength: number): void {
  if (strength <= 0) return;
  p.save();
  p.globalCompositeOperation = 'lighter';
  const g = p.createRadialGradient(x, y, 0, x, y, radius);
  g.addColorStop(0, `rgba(255,196,110,${0.85 * strength})`);
  g.addColorStop(0.12, `rgba(255,150,60,${0.34 * strength})`);
  g.addColorStop(0.45, `rgba(220,110,50,${0.1 * strength})`);
  g.addColorStop(1, 'rgba(200,90,40,0)');
  p.fillStyle = g;
  p.fillRect(x - radius, y - radius, radius * 2, radius * 2);
  p.restore();
}

/** Darkens the corners, as an old lens does. */
export function vignette(p: Paper): void {
  const g = p.createRadialGradient(WIDTH / 2, HEIGHT * 0.46, HEIGHT * 0.42, WIDTH / 2, HEIGHT / 2, WIDTH * 0.66);
  g.addColorStop(0, 'rgba(2,6,10,0)');
  g.addColorStop(1, 'rgba(2,6,10,0.62)');
  p.fillStyle = g;
  p.fillRect(0, 0, WIDTH, HEIGHT);
}
