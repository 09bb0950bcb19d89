// Compiles the JSON schemas into plain code: the page's Content Security Policy forbids making code at run time.
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Ajv } from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
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
