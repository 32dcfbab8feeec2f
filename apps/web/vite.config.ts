import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defaultClientConditions, defineConfig } from 'vite';

/** The page. In development `/api` goes to the server on its usual port. */
export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ['source', ...defaultClientConditions] },
  worker: { format: 'es' },
  server: { proxy: { '/api': `http://127.0.0.1:${process.env.LORVEK_PORT ?? 7410}` } },
  build: { target: 'es2022', chunkSizeWarningLimit: 900 },
});
