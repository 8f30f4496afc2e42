import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import path from 'node:path';
import { defineConfig } from 'vite';

const api = `http://127.0.0.1:${process.env['PORT'] ?? 4800}`;

export default defineConfig({
  root: path.resolve(import.meta.dirname, 'web'),
  plugins: [react(), tailwindcss()],
  build: { outDir: path.resolve(import.meta.dirname, 'dist/web'), emptyOutDir: true, manifest: true, assetsInlineLimit: 0 },
  server: { proxy: { '/api': api } },
});
