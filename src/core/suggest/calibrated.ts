/** Softmax share of the first guess, and how often such guesses are right; straight lines between. */
const table: readonly (readonly [share: number, right: number])[] = [
  [0, 0],
  [0.1, 0.36],
  [0.25, 0.68],
  [0.45, 0.79],
  [0.65, 0.85],
  [0.85, 0.88],
  [0.95, 0.91],
  [1, 0.95],
];

/** The share of right guesses among first guesses of this softmax share. */
export function calibrated(share: number): number {
  const above = table.findIndex(([s]) => s >= share);
  if (above <= 0) return table[0][1];
  const [[s0, p0], [s1, p1]] = [table[above - 1], table[above]];
  return p0 + ((p1 - p0) * (share - s0)) / (s1 - s0);
}
