import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import path from 'node:path';
import { defineConfig, type Plugin } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';

// `npm run dev`: the server stands behind Vite. It is told the address that the browser asked for: it refuses what comes from another page.
const api = { target: `http://127.0.0.1:${process.env['API_PORT'] ?? 4800}`, changeOrigin: false };

const WHOLE = '?whole';
const isWhole = (importer: string | undefined): boolean =>
  importer !== undefined && (importer.endsWith(WHOLE) || importer.includes('/contract/whole/'));

/** The web is typed by the contract and asks by its paths; it parses nothing with it, the server does. Without its schemas a handheld
 *  loads a third less.
 *  A form that judges what was typed loads `#contract/whole`: the same files a second time, with their schemas, when something is sent
 *  first. */
const contractWithoutSchemas: Plugin = {
  name: 'contract-without-schemas',
  enforce: 'pre',
  async resolveId(source, importer, options) {
    if (!importer?.includes('/contract/')) return null;
    if (!isWhole(importer)) return source === 'zod' ? '\0no-schemas' : null;
    if (source === 'zod') return null;
    const found = await this.resolve(source, importer.replace(WHOLE, ''), { ...options, skipSelf: true });
    return found?.id.includes('/contract/') ? found.id + WHOLE : found;
  },
  load: (id) =>
    id === '\0no-schemas' ? 'export const z = new Proxy(() => undefined, { get: () => z, apply: () => z }); export default z;' : null,
};

export default defineConfig({
  root: path.resolve(import.meta.dirname, 'web'),
  plugins: [
    contractWithoutSchemas,
    react(),
    tailwindcss(),
    VitePWA({
      registerType: 'prompt',
      injectRegister: false,
      manifest: {
        name: 'Dock Row',
        short_name: 'Dock Row',
        description: 'Keeps the stock of a small distributor’s warehouse true.',
        start_url: '/h',
        scope: '/',
        display: 'standalone',
        orientation: 'portrait',
        background_color: '#f7f3ea',
        theme_color: '#1c1a17',
        icons: [
          { src: '/icon-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/icon-512.png', sizes: '512x512', type: 'image/png' },
          { src: '/icon-512-maskable.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
        ],
      },
      workbox: {
        globPatterns: ['index.html', 'assets/**/*.{js,css,woff2}', 'icon-*.png'],
        // Only the handheld works without a server; the desk's heavy parts are fetched when they are opened.
        globIgnores: ['**/plotly*', '**/konva*'],
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//],
        cleanupOutdatedCaches: true,
        // The camera's decoder is for those devices alone that use it: kept from the first time on.
        runtimeCaching: [
          {
            urlPattern: /\/api\/items\/\d+\/picture$/,
            handler: 'StaleWhileRevalidate',
            options: {
              cacheName: 'pictures',
              cacheableResponse: { statuses: [200] },
              expiration: { maxEntries: 2000, purgeOnQuotaError: true },
            },
          },
          { urlPattern: /\.wasm$/, handler: 'CacheFirst', options: { cacheName: 'decoder', expiration: { maxEntries: 2 } } },
        ],
        clientsClaim: true,
      },
    }),
  ],
  build: { outDir: path.resolve(import.meta.dirname, 'dist/web'), emptyOutDir: true, manifest: true, assetsInlineLimit: 0 },
  worker: { format: 'es' },
  server: { proxy: { '/api': api } },
});
