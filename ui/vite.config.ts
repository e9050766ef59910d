import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

/** Lays a packed copy beside each script and style, so that none is packed anew whenever a window asks for it. */
const packed: Plugin = {
  name: 'packed',
  writeBundle({ dir = 'dist' }, bundle) {
    for (const name of Object.keys(bundle).filter((n) => /\.(js|css)$/.test(n)))
      writeFileSync(join(dir, `${name}.gz`), gzipSync(readFileSync(join(dir, name)), { level: 9 }));
  },
};

export default defineConfig({
  plugins: [react(), packed],
  build: {
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 1500,
    emptyOutDir: false,
    // these do nothing by being imported, though they do not say so: without it whole forms come along with one field
    rolldownOptions: {
      // what the first view needs in one piece: each file more costs it some ten milliseconds
      output: { codeSplitting: { groups: [{ name: 'bench', test: /\/src\/main\.tsx$/ }] } },
      treeshake: {
        moduleSideEffects: [
          { test: /node_modules\/(@rc-component|@ant-design|@babel)\//, sideEffects: false },
        ],
      },
    },
  },
  worker: { format: 'es' },
  server: { proxy: { '/api': 'http://127.0.0.1:8460' } },
});
