/** The colours of the interface; everything that is drawn takes them from here. */
export const palettes = {
  dark: {
    deep: '#0b1416',
    bed: '#101c1e',
    raft: '#172628',
    raft2: '#1d2f31',
    line: '#26393b',
    text: '#dde8e4',
    mute: '#8ca39e',
    faint: '#5d7471',
    glass: '#63b8a6',
    glassDeep: '#1c3a38',
    amber: '#f0a23b',
    amberDeep: '#4a3113',
    onAmber: '#1c1204',
    bone: '#f2ede0',
    sky: '#7db7dd',
    coral: '#ea6f56',
    moss: '#a3c265',
    plum: '#bd9fe3',
  },
  light: {
    deep: '#f3f1ea',
    bed: '#faf9f5',
    raft: '#ffffff',
    raft2: '#e9e6dc',
    line: '#d6d2c4',
    text: '#16211f',
    mute: '#53645f',
    faint: '#8b968f',
    glass: '#1f7a69',
    glassDeep: '#cfe3dc',
    amber: '#985500',
    amberDeep: '#f6e2c4',
    onAmber: '#ffffff',
    bone: '#0e1715',
    sky: '#2f6f9b',
    coral: '#b23a22',
    moss: '#5a701c',
    plum: '#6d4aa3',
  },
} as const;

export type ThemeName = keyof typeof palettes;
export type Palette = Record<keyof (typeof palettes)['dark'], string>;

/** Hands a palette to the style sheets as custom properties. */
export function paint(name: ThemeName): void {
  const root = document.documentElement;
  root.dataset.theme = name;
  root.style.colorScheme = name;
  for (const [token, colour] of Object.entries(palettes[name])) root.style.setProperty(`--${token}`, colour);
}
