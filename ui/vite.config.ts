import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react()],
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
