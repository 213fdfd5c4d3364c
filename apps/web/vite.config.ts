import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react()],
  resolve: { conditions: ['stem-trace-source', 'module', 'browser', 'development|production'] },
  server: { host: '127.0.0.1', proxy: { '/api': process.env.STEM_URL ?? 'http://127.0.0.1:4170' } },
  build: { target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 900 },
  worker: { format: 'es' },
});
