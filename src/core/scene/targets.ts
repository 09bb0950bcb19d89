/** How loud a mix was. */
export interface MixLevels {
  /** Integrated after ITU-R BS.1770-4, LUFS; -Infinity for silence. */
  loudness: number;
  /** Loudness range after EBU Tech 3342, LU. */
  range: number;
  /** dBTP */
  truePeak: number;
}

/** What a mix should be like where it is going. */
export interface LoudnessTarget {
  key: string;
  name: string;
  /** LUFS */
  loudness: number;
  /** LU by which it may be missed. */
  within: number;
  /** Highest true peak, dBTP. */
  truePeak: number;
}

/** EBU R 128 (2023), ATSC A/85 (2013), and what streaming services turn music and other programmes to. */
export const loudnessTargets: readonly LoudnessTarget[] = [
  { key: 'r128', name: 'EBU R 128', loudness: -23, within: 0.5, truePeak: -1 },
  { key: 'a85', name: 'ATSC A/85', loudness: -24, within: 2, truePeak: -2 },
  { key: 's16', name: 'Streaming, −16 LUFS', loudness: -16, within: 1, truePeak: -1 },
  { key: 's14', name: 'Streaming, −14 LUFS', loudness: -14, within: 1, truePeak: -1 },
];

/** What a mix is off. */
export interface Miss {
  /** dB by which all of it has to be turned up to be as loud as asked for; 0 for silence, which nothing helps. */
  by: number;
  /** Whether it is further off than it may be. */
  missed: boolean;
  /** dB by which its true peak is too high now, and would be once it is as loud as asked for; 0 where it is not. */
  over: number;
  overThen: number;
}

/** Holds a mix against a target. */
export function missOf({ loudness, truePeak }: MixLevels, target: LoudnessTarget): Miss {
  const by = Number.isFinite(loudness) ? target.loudness - loudness : 0;
  return {
    by,
    missed: Math.abs(by) > target.within,
    over: Math.max(0, truePeak - target.truePeak),
    overThen: Math.max(0, truePeak + by - target.truePeak),
  };
}
