// Compiles the JSON schemas into plain code, as the page's Content Security Policy forbids making code at run time, and the
// inner loop of the resampler into WebAssembly.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Ajv } from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import wabt from 'wabt';
import { schemas } from '../src/core/schemas/shapes';

const out = join(dirname(fileURLToPath(import.meta.url)), '../src/core/generated');
const names = Object.keys(schemas);
const ajv = new Ajv({ code: { source: true, esm: true }, allErrors: false, discriminator: true });
for (const name of names) ajv.addSchema(schemas[name as keyof typeof schemas], name);
const code = (standalone as unknown as { default: typeof standalone }).default(
  ajv,
  Object.fromEntries(names.map((n) => [n, n])),
);
mkdirSync(out, { recursive: true });
// The one helper that Ajv would require() from its own package: string length by code points.
const plain = code.replace(/require\("ajv\/dist\/runtime\/ucs2length"\)\.default/g, '((s) => [...s].length)');
if (plain.includes('require(')) throw new Error('a schema uses an Ajv helper that this script does not inline');
writeFileSync(join(out, 'validators.js'), plain);
const types = [
  'export interface Validator {',
  '  (data: unknown): boolean;',
  '  errors?: { instancePath: string; message?: string }[] | null;',
  '}',
];
writeFileSync(
  join(out, 'validators.d.ts'),
  [...types, ...names.map((n) => `export declare const ${n}: Validator;`), ''].join('\n'),
);

const loop = fileURLToPath(new URL('../src/core/engine/interpolate.wat', import.meta.url));
const parsed = (await wabt()).parseWat(loop, readFileSync(loop, 'utf8'), { simd: true });
const bytes = Buffer.from(parsed.toBinary({}).buffer).toJSON().data;
writeFileSync(
  join(out, 'interpolator.js'),
  `const bytes = new Uint8Array([${bytes.join()}]);
export const startInterpolator = () => new WebAssembly.Instance(new WebAssembly.Module(bytes)).exports;
`,
);
writeFileSync(
  join(out, 'interpolator.d.ts'),
  `export declare function startInterpolator(): {
  memory: { readonly buffer: ArrayBuffer; grow(pages: number): number };
  interpolate(...addresses: number[]): void;
};
`,
);
