import type { CueRow, Scene } from '@core/scene';

const STYLE = `
@page { margin: 14mm; }
body { font: 10pt/1.35 sans-serif; color: #16211f; background: #fff; margin: 12px; }
h1 { font-size: 15pt; margin: 0; }
p { margin: 2pt 0 10pt; color: #53645f; }
table { width: 100%; border-collapse: collapse; }
th, td { padding: 3pt 8pt 3pt 0; border-bottom: 0.5pt solid #d6d2c4; text-align: left; vertical-align: top; }
tr { break-inside: avoid; }
thead { display: table-header-group; }
.time { font-family: monospace; white-space: nowrap; }
small { color: #53645f; }
img { display: block; height: 40px; }
`;

/**
 * A cue sheet as a page of its own to print. Names are put in as text, and the page may run and fetch nothing.
 * @param frames pictures as data URLs, by the timecode of the anchor
 */
export function cuePage(scene: Scene, rows: readonly CueRow[], frames: ReadonlyMap<string, string>): string {
  const page = document.implementation.createHTMLDocument(`${scene.name}, cue sheet`);
  const add = <K extends keyof HTMLElementTagNameMap>(onto: Element, tag: K, text = '', style = '') => {
    const made = page.createElement(tag);
    made.textContent = text;
    if (style) made.className = style;
    onto.append(made);
    return made;
  };
  const only = add(page.head, 'meta');
  only.httpEquiv = 'Content-Security-Policy';
  only.content = "default-src 'none'; img-src data:; style-src 'unsafe-inline'";
  add(page.head, 'meta').setAttribute('charset', 'utf-8');
  add(page.head, 'style', STYLE);
  add(page.body, 'h1', scene.name);
  add(page.body, 'p', `${rows.length} cues at ${scene.fps} frames a second`);
  const table = add(page.body, 'table');
  const heads = ['', ...(frames.size > 0 ? ['Picture'] : []), 'In', 'Out', 'Track', 'Sound', 'Licence'];
  const head = add(add(table, 'thead'), 'tr');
  for (const name of heads) add(head, 'th', name);
  const body = add(table, 'tbody');
  for (const [i, row] of rows.entries()) {
    const line = add(body, 'tr');
    add(line, 'td', String(i + 1));
    if (frames.size > 0) {
      const cell = add(line, 'td');
      const frame = frames.get(row.anchor);
      if (frame) Object.assign(add(cell, 'img'), { src: frame, alt: `Frame ${row.anchor}` });
    }
    add(line, 'td', row.begins, 'time');
    add(line, 'td', row.ends, 'time');
    add(line, 'td', row.track);
    const sound = add(line, 'td', row.cue.name);
    add(sound, 'br');
    add(sound, 'small', row.file);
    add(line, 'td', row.licence);
  }
  return `<!doctype html>\n${page.documentElement.outerHTML}\n`;
}
