import { build } from 'vite';
import { fileURLToPath } from 'node:url';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** A module of ours as one script that a page can run; what it exports stands under a global name. */
export async function bundled(entry: string, name: string): Promise<string> {
  const made = await build({
    configFile: false,
    logLevel: 'silent',
    resolve: { alias: { '@core': at('../../src/core'), '@platform': at('../../src/platform') } },
    build: { write: false, minify: false, target: 'es2022', lib: { entry: at(entry), formats: ['iife'], name } },
  });
  const [{ output }] = made as { output: { type: string; code?: string }[] }[];
  return output.find((o) => o.type === 'chunk')!.code!;
}
