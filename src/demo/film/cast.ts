import { ease, scatter, type Paper } from './night';

const INK = '#050b10';

function limb(p: Paper, points: [number, number][], width: number): void {
  p.lineWidth = width;
  p.lineCap = 'round';
  p.lineJoin = 'round';
  p.beginPath();
  points.forEach(([x, y], i) => (i === 0 ? p.moveTo(x, y) : p.lineTo(x, y)));
  p.stroke();
}

/** What the ferryman is doing. */
export interface Pose {
  /** Steps taken; at whole numbers a boot meets the deck. Absent when he stands. */
  walk?: number;
  /** Angle of the crank in his hands, radians. Absent when he holds none. */
  crank?: number;
  /** 0 to 1: arm raised to the lantern. */
  reach?: number;
}

/** Half a step of the ferryman. */
const HALF_STEP = 18.3;

/** How far he has come after so many steps: he sinks into each of them, and is slowest there. */
export function stride(walk: number): number {
  return walk - 0.12 * Math.sin(2 * Math.PI * walk);
}

/** The ferryman: a heavy coat, a broad hat, boots. The origin is the deck between his feet; he looks to the right. */
export function ferryman(p: Paper, x: number, y: number, s: number, t: number, pose: Pose): void {
  p.save();
  p.translate(x, y);
  p.scale(s, s);
  p.strokeStyle = INK;
  p.fillStyle = INK;
  const hip = -62;
  if (pose.walk !== undefined) {
    for (const leg of [0, 1]) {
      const phase = (((pose.walk + leg) % 2) + 2) % 2;
      // The first half of a stride the boot stands where it is, while he passes over it; the second half it swings forward until it meets the deck.
      const u = phase % 1;
      const ahead = phase < 1 ? 1 - 2 * stride(u) : 4 * u * u * (2 - u) - 1 - 2 * stride(u);
      const swing = HALF_STEP * ahead;
      const lift = phase < 1 ? 0 : Math.sin(u * Math.PI) * 15;
      limb(
        p,
        [
          [0, hip],
          [swing * 0.55 + 5, hip / 2 - lift * 0.5],
          [swing, -7 - lift],
        ],
        13,
      );
      p.fillRect(swing - 8, -11 - lift, 25, 11);
    }
  } else {
    for (const foot of [-10, 9]) {
      limb(
        p,
        [
          [0, hip],
          [foot, -8],
        ],
        14,
      );
      p.fillRect(foot - 7, -11, 24, 11);
    }
  }
  const bob = pose.walk === undefined ? Math.sin(t * 1.4) * 0.8 : -Math.abs(Math.sin(pose.walk * Math.PI)) * 3;
  const lean = pose.crank === undefined ? 0 : Math.sin(pose.crank) * 9 + 10;
  p.translate(0, bob);
  p.beginPath();
  p.moveTo(-20, hip + 30);
  p.lineTo(-16 + lean * 0.4, hip - 50);
  p.quadraticCurveTo(lean, hip - 66, 17 + lean, hip - 48);
  p.lineTo(21, hip + 26);
  p.quadraticCurveTo(0, hip + 38 + Math.sin(t * 2) * 2, -20, hip + 30);
  p.fill();
  const shoulder: [number, number] = [4 + lean, hip - 46];
  if (pose.crank !== undefined) {
    const hand: [number, number] = [52 + Math.cos(pose.crank) * 22, hip + 14 + Math.sin(pose.crank) * 22];
    limb(p, [shoulder, [(shoulder[0] + hand[0]) / 2 + 4, hip - 6], hand], 11);
  } else {
    const up = pose.reach ?? 0;
    const swing = pose.walk === undefined ? 0 : Math.sin(pose.walk * Math.PI) * 14;
    limb(
      p,
      [shoulder, [18 + 12 * up + swing * 0.5, hip - 22 - 34 * up], [16 + 24 * up + swing, hip + 6 - 96 * up]],
      10,
    );
  }
  p.beginPath();
  p.arc(5 + lean * 1.1, hip - 71, 13, 0, 7);
  p.fill();
  p.beginPath();
  p.ellipse(6 + lean * 1.1, hip - 80, 25, 5, -0.06, 0, 7);
  p.fill();
  p.fillRect(-7 + lean * 1.1, hip - 96, 26, 16);
  // A pipe: he is never seen without it.
  limb(
    p,
    [
      [16 + lean * 1.1, hip - 66],
      [27 + lean * 1.1, hip - 64],
      [27 + lean * 1.1, hip - 69],
    ],
    2.6,
  );
  p.restore();
}

/** The lantern on its mast. @param light 0 to 1 */
export function lantern(p: Paper, x: number, y: number, s: number, light: number): void {
  p.save();
  p.translate(x, y);
  p.scale(s, s);
  p.strokeStyle = INK;
  p.lineWidth = 7;
  p.beginPath();
  p.moveTo(0, 0);
  p.lineTo(0, -176);
  p.quadraticCurveTo(2, -192, 22, -190);
  p.stroke();
  p.fillStyle = INK;
  p.fillRect(14, -190, 18, 7);
  p.fillRect(12, -155, 22, 5);
  p.fillStyle = light > 0 ? `rgba(255,${Math.round(170 + 40 * light)},100,${0.35 + 0.65 * light})` : '#1a2a33';
  p.fillRect(15, -183, 16, 28);
  p.strokeStyle = INK;
  p.lineWidth = 1.6;
  for (const bar of [18, 23, 28]) {
    p.beginPath();
    p.moveTo(bar, -183);
    p.lineTo(bar, -155);
    p.stroke();
  }
  p.restore();
}

/** The winch: a drum with rope, a toothed wheel and its pawl. @param teeth teeth that have passed; the pawl falls at whole numbers */
export function winch(p: Paper, x: number, y: number, s: number, teeth: number): void {
  const count = 12;
  p.save();
  p.translate(x, y);
  p.scale(s, s);
  p.fillStyle = INK;
  p.strokeStyle = INK;
  p.lineWidth = 8;
  for (const foot of [-26, 26]) {
    p.beginPath();
    p.moveTo(foot, 0);
    p.lineTo(foot * 0.3, -48);
    p.stroke();
  }
  p.save();
  p.translate(0, -50);
  p.rotate((teeth / count) * Math.PI * 2);
  p.beginPath();
  for (let i = 0; i < count; i++) {
    const a = (i / count) * Math.PI * 2;
    p.lineTo(Math.cos(a) * 24, Math.sin(a) * 24);
    p.lineTo(Math.cos(a + 0.42) * 32, Math.sin(a + 0.42) * 32);
  }
  p.fill();
  p.fillStyle = '#22343c';
  p.beginPath();
  p.arc(0, 0, 12, 0, 7);
  p.fill();
  p.restore();
  // The pawl rides up a tooth and drops; its tail, which catches the light, jerks up as it does.
  const part = teeth - Math.floor(teeth);
  p.save();
  p.translate(40, -92);
  p.rotate(-0.85 + 0.42 * part);
  p.fillRect(-38, -3.5, 38, 7);
  p.fillStyle = '#8ea4ab';
  p.fillRect(0, -3.5, 46, 7);
  p.beginPath();
  p.arc(46, 0, 8, 0, 7);
  p.fill();
  p.restore();
  p.restore();
}

/** The ferry from the side: flat hull, rails, a small cabin, the mast. Origin amidships at the waterline; faces right. */
export function ferry(p: Paper, x: number, y: number, s: number, t: number, light: number): void {
  p.save();
  p.translate(x, y);
  p.rotate(Math.sin(t * 0.7) * 0.007);
  p.scale(s, s);
  p.fillStyle = INK;
  p.beginPath();
  p.moveTo(-250, -42);
  p.lineTo(262, -42);
  p.lineTo(222, 14);
  p.quadraticCurveTo(0, 26, -214, 14);
  p.fill();
  p.fillStyle = '#16252c';
  p.fillRect(-246, -44, 505, 5);
  p.fillStyle = '#0a1319';
  p.fillRect(-188, -142, 118, 100);
  p.fillStyle = INK;
  p.beginPath();
  p.moveTo(-204, -140);
  p.lineTo(-130, -168);
  p.lineTo(-56, -140);
  p.fill();
  p.fillRect(-104, -190, 13, 46);
  for (const w of [-170, -122]) {
    p.fillStyle = light > 0 ? `rgba(246,190,104,${0.25 + 0.6 * light})` : '#13222a';
    p.fillRect(w, -118, 30, 28);
    p.fillStyle = INK;
    p.fillRect(w + 14, -118, 3, 28);
  }
  p.strokeStyle = INK;
  p.lineWidth = 3.4;
  for (let i = 0; i < 9; i++) {
    p.beginPath();
    p.moveTo(-40 + i * 35, -42);
    p.lineTo(-40 + i * 35, -74);
    p.stroke();
  }
  p.beginPath();
  p.moveTo(-44, -74);
  p.lineTo(244, -74);
  p.stroke();
  p.restore();
}

/** A pier on posts with tyres at its end. @param side 1: it reaches in from the right, -1: from the left */
export function pier(p: Paper, x: number, y: number, side: 1 | -1, push = 0): void {
  p.fillStyle = '#040a0e';
  const far = side === 1 ? 1400 : -120;
  p.fillRect(Math.min(x, far), y - 66, Math.abs(far - x), 17);
  for (let i = 0; i < 7; i++) {
    const px = x + side * (22 + i * 84);
    p.fillRect(px - 9, y - 96 + (i % 2) * 22, 18, 150 + scatter(i, 41) * 30);
  }
  p.lineWidth = 11;
  p.strokeStyle = '#0b141a';
  for (const dy of [-34, 6]) {
    p.beginPath();
    p.ellipse(x - side * (6 - push), y + dy, 15 - push * 0.4, 21, 0, 0, 7);
    p.stroke();
  }
}

/** The gate at the head of the far pier. @param open 0 shut to 1 wide */
export function gate(p: Paper, x: number, y: number, open: number): void {
  p.save();
  p.translate(x, y);
  p.fillStyle = INK;
  p.fillRect(-7, -124, 14, 126);
  p.fillRect(112, -112, 12, 114);
  p.transform(1 - 0.72 * open, -0.16 * open, 0, 1, 0, 0);
  p.strokeStyle = INK;
  p.lineWidth = 8;
  p.strokeRect(8, -96, 98, 84);
  p.lineWidth = 5;
  for (let i = 1; i < 5; i++) {
    p.beginPath();
    p.moveTo(8 + i * 20, -96);
    p.lineTo(8 + i * 20, -12);
    p.stroke();
  }
  p.beginPath();
  p.moveTo(8, -12);
  p.lineTo(106, -96);
  p.stroke();
  p.restore();
}

/** The heron, standing on its post or on the wing. @param since seconds since it left; negative while it stands */
export function heron(p: Paper, postX: number, postY: number, since: number, t: number): void {
  const flying = since >= 0;
  const x = postX + (flying ? 46 * since ** 1.55 : 0);
  const y = postY - (flying ? 30 * since ** 1.15 + 6 * ease(since, 0, 0.3) : 0);
  p.save();
  p.translate(x, y);
  p.fillStyle = INK;
  p.strokeStyle = INK;
  if (!flying) {
    limb(
      p,
      [
        [-4, 0],
        [-3, -42],
      ],
      3,
    );
    limb(
      p,
      [
        [5, 0],
        [3, -42],
      ],
      3,
    );
    p.beginPath();
    p.ellipse(0, -58, 27, 13, -0.5, 0, 7);
    p.fill();
    const turn = Math.sin(t * 0.5) * 4;
    limb(
      p,
      [
        [15, -68],
        [26, -84],
        [14 + turn, -104],
        [22 + turn, -120],
      ],
      5.5,
    );
    limb(
      p,
      [
        [20 + turn, -121],
        [52 + turn, -116],
      ],
      3.4,
    );
    limb(
      p,
      [
        [20 + turn, -122],
        [4 + turn, -128],
      ],
      2,
    );
  } else {
    const beat = Math.sin(since * Math.PI * 2 * 2.3);
    limb(
      p,
      [
        [-14, -50],
        [-66, -40],
      ],
      3,
    );
    p.beginPath();
    p.ellipse(0, -56, 30, 10, -0.12, 0, 7);
    p.fill();
    limb(
      p,
      [
        [20, -60],
        [40, -62],
        [34, -72],
        [48, -74],
      ],
      6,
    );
    limb(
      p,
      [
        [46, -74],
        [76, -70],
      ],
      3.2,
    );
    for (const [depth, lift] of [
      [1, beat],
      [0.8, beat * 0.92],
    ]) {
      p.beginPath();
      p.moveTo(14 * depth, -60);
      p.quadraticCurveTo(-8, -60 - 62 * lift * depth, -36, -62 - 96 * lift * depth);
      p.quadraticCurveTo(-34, -56 - 40 * lift * depth, -20, -52);
      p.fill();
    }
  }
  p.restore();
}
