// Compiles the JSON schemas into plain code, as the page's Content Security Policy forbids making code at run time, and the
// inner loops of the resampler and of the index into WebAssembly.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Ajv } from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import wabt from 'wabt';
import { lexicon } from './lexicon';

const out = join(dirname(fileURLToPath(import.meta.url)), '../src/core/generated');
mkdirSync(out, { recursive: true });

/** Compiles inner loops. They are started where they are first needed: each start has a memory of its own. */
async function loops(folder: string, name: string, functions: readonly string[]): Promise<void> {
  const file = join(out, '..', folder, `${name}.wat`);
  const parsed = (await wabt()).parseWat(file, readFileSync(file, 'utf8'), { simd: true, bulk_memory: true });
  const bytes = Buffer.from(parsed.toBinary({}).buffer).toJSON().data;
  writeFileSync(
    join(out, `${name}.js`),
    `const bytes = new Uint8Array([${bytes.join()}]);
let compiled;
export const start = () => new WebAssembly.Instance((compiled ??= new WebAssembly.Module(bytes))).exports;
`,
  );
  writeFileSync(
    join(out, `${name}.d.ts`),
    `export declare function start(): {
  memory: { readonly buffer: ArrayBuffer; grow(pages: number): number };
${functions.map((f) => `  ${f}(...addresses: number[]): number;`).join('\n')}
};
`,
  );
}
await loops('engine', 'interpolate', ['interpolate']);
await loops('files', 'pcm', ['whole', 'real']);
await loops('audio', 'blocks', ['scan', 'mix', 'split', 'halve', 'weigh', 'squares', 'bounds']);
await loops('audio', 'transform', ['window', 'transform', 'powers', 'peaks', 'between']);
await loops('effects', 'filters', ['fir', 'double', 'halve', 'sections', 'bend']);
await loops('effects', 'place', ['reflect', 'recall', 'spread', 'network']);
await loops('effects', 'convolve', ['multiply']);
await loops('search', 'sweep', ['raise', 'gather', 'mark', 'better', 'argsort']);

// The schemas stand on the library, and that on files and their samples: the loops of those are made by now.
const { schemas } = await import('../src/core/schemas/shapes');
const names = Object.keys(schemas);
const ajv = new Ajv({ code: { source: true, esm: true }, allErrors: false, discriminator: true, inlineRefs: false });
for (const name of names) ajv.addSchema(schemas[name as keyof typeof schemas], name);
const code = (standalone as unknown as { default: typeof standalone }).default(
  ajv,
  Object.fromEntries(names.map((n) => [n, n])),
);
// The one helper that Ajv would require() from its own package: string length by code points.
const plain = code.replace(/require\("ajv\/dist\/runtime\/ucs2length"\)\.default/g, '((s) => [...s].length)');
if (plain.includes('require(')) throw new Error('a schema uses an Ajv helper that this script does not inline');
// Whoever checks records by the names of their tables has these alone, not the messages of the services as well.
const records = names.filter((n) => n.endsWith('Record'));
writeFileSync(join(out, 'validators.js'), `${plain}\nexport const records = { ${records.join(', ')} };\n`);
const types = [
  'export interface Validator {',
  '  (data: unknown): boolean;',
  '  errors?: { instancePath: string; message?: string; params?: Record<string, string | undefined> }[] | null;',
  '}',
];
writeFileSync(
  join(out, 'validators.d.ts'),
  [
    ...types,
    ...names.map((n) => `export declare const ${n}: Validator;`),
    'export declare const records: Readonly<Record<string, Validator>>;',
    '',
  ].join('\n'),
);

const { words, near } = lexicon();
writeFileSync(
  join(out, 'meaning.js'),
  `/*! Cut out of WordNet 3.1, Copyright 2006 by Princeton University. All rights reserved; see NOTICES.md for its licence. */\nexport const words = ${JSON.stringify(words)};\nexport const near = ${JSON.stringify(near)};\n`,
);
writeFileSync(join(out, 'meaning.d.ts'), 'export declare const words: string;\nexport declare const near: string;\n');
