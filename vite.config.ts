import vue from '@vitejs/plugin-vue';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

// What is not used of the lower floors is left out; only their workers do anything by being read.
const treeshake = {
  moduleSideEffects: (id: string) => !/\/src\/(core|platform)\//.test(id) || /\.(worker|worklet)\.ts$/.test(id),
};

export default defineConfig({
  root: at('src/app'),
  plugins: [vue()],
  resolve: { alias: { '@core': at('src/core'), '@platform': at('src/platform'), '@app': at('src/app') } },
  worker: { format: 'es', rolldownOptions: { treeshake } },
  build: {
    outDir: at('dist'),
    emptyOutDir: true,
    target: 'es2022',
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 1600,
    // The application, and the page of the session host.
    rolldownOptions: {
      input: [at('src/app/index.html'), at('src/app/host.html')],
      treeshake,
      // What is read at first is a handful of files: a request costs more than a few lines that another stage needs.
      output: {
        codeSplitting: {
          groups: [
            { name: 'start', test: /comlink|platform.workers.index|app.stages|preload-helper/, priority: 1 },
            { name: 'shared', minShareCount: 3 },
          ],
        },
      },
    },
    // Inlined files would need data: URLs, which the Content Security Policy forbids for scripts and fonts.
    assetsInlineLimit: 0,
  },
});
