import vue from '@vitejs/plugin-vue';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  root: at('src/app'),
  plugins: [vue()],
  resolve: { alias: { '@core': at('src/core'), '@platform': at('src/platform'), '@app': at('src/app') } },
  worker: { format: 'es' },
  build: {
    outDir: at('dist'),
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 1600,
    // The application, and the page of the session host.
    rolldownOptions: {
      input: [at('src/app/index.html'), at('src/app/host.html')],
      // What the page does not use of the lower floors is left out; only their workers do anything by being read.
      treeshake: { moduleSideEffects: (id) => !/\/src\/(core|platform)\//.test(id) },
    },
    // Inlined files would need data: URLs, which the Content Security Policy forbids for scripts and fonts.
    assetsInlineLimit: 0,
  },
});
