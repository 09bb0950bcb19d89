/** Softmax share of the first guess, and how often such guesses are right; straight lines between. */
const table: readonly (readonly [share: number, right: number])[] = [
  [0, 0],
  [0.1, 0.38],
  [0.25, 0.7],
  [0.45, 0.81],
  [0.65, 0.87],
  [0.85, 0.905],
  [0.95, 0.935],
  [1, 0.965],
];

/** The share of right guesses among first guesses of this softmax share. */
export function calibrated(share: number): number {
  const above = table.findIndex(([s]) => s >= share);
  if (above <= 0) return table[0][1];
  const [[s0, p0], [s1, p1]] = [table[above - 1], table[above]];
  return p0 + ((p1 - p0) * (share - s0)) / (s1 - s0);
}
