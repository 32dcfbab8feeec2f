import { defineConfig } from 'vite';

/** The server, its worker and the demo data's maker as files for Node; workspace packages are bundled from source. */
export default defineConfig({
  resolve: { conditions: ['source', 'node', 'import', 'module', 'default'] },
  ssr: { noExternal: [/^@lorvek\//], resolve: { conditions: ['source', 'node', 'import', 'module', 'default'] } },
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist',
    sourcemap: true,
    minify: false,
    rolldownOptions: {
      input: { main: 'src/main.ts', shop: 'src/shop.ts', seed: '../../demo/seed.ts', 'compute.worker': 'src/compute/compute.worker.ts' },
      output: { format: 'es', entryFileNames: '[name].js', chunkFileNames: '[name].js' },
    },
  },
});
