import { defineConfig } from 'vite';

/** The simulated machines as one file for Node. */
export default defineConfig({
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist',
    minify: false,
    rolldownOptions: { input: { main: 'src/main.ts' }, output: { format: 'es', entryFileNames: '[name].js', chunkFileNames: '[name].js' } },
  },
});
