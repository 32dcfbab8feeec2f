import { defineConfig } from 'vite';

const conditions = ['source', 'node', 'import', 'module', 'default'];

/** The simulated machines, and the thread that reads prints, as files for Node; workspace packages are bundled from source, built or not. */
export default defineConfig({
  resolve: { conditions },
  ssr: { noExternal: [/^@lorvek\//], resolve: { conditions } },
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist',
    minify: false,
    rolldownOptions: {
      input: { main: 'src/main.ts', 'print-reader.worker': 'src/print-reader.worker.ts' },
      output: { format: 'es', entryFileNames: '[name].js', chunkFileNames: '[name].js' },
    },
  },
});
