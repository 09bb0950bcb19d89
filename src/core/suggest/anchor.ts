import type { EnergyCollector } from '@core/audio';

/** A rise from silence to its peak within this time is a strike; a slower one is a swell. Seconds. */
const STRIKE = 0.08;

/**
 * Suggests the instant that should land on the picture event: the onset of the strongest strike, or the top of a swell.
 * A strike's onset is where the energy last stood 20 dB under the strike's own peak; a swell's top is taken after
 * smoothing over 0.3 s.
 * @param energy collected over the whole sound
 * @returns frame from the start; 0 for silence
 */
export function suggestAnchor(energy: EnergyCollector, rate: number): number {
  const { energies, span } = energy;
  let top = 0;
  for (let i = 1; i < energies.length; i++) if (energies[i] > energies[top]) top = i;
  const peak = energies[top] ?? 0;
  if (peak <= 1e-10) return 0;
  // Of several strikes about as strong as the strongest the first is the one an editor lines up.
  let strike = energies.findIndex((e) => e >= peak * 0.5);
  while (strike + 1 < energies.length && energies[strike + 1] > energies[strike]) strike++;
  const back = Math.max(0, strike - Math.round((STRIKE * rate) / span));
  for (let i = strike; i >= back; i--) {
    if (energies[i] < energies[strike] * 0.01) return (i + 1) * span;
    if (i === 0) return 0;
  }
  return topOfSwell(energies, Math.max(1, Math.round((0.3 * rate) / span))) * span;
}

function topOfSwell(energies: number[], width: number): number {
  let sum = 0;
  let best = 0;
  let at = 0;
  for (let i = 0; i < energies.length; i++) {
    sum += energies[i] - (i >= width ? energies[i - width] : 0);
    if (sum > best) {
      best = sum;
      at = i - Math.min(i, width) / 2;
    }
  }
  return Math.round(at);
}
