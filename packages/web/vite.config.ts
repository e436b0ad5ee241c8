import { defaultClientConditions, defineConfig } from 'vite';
import react from '@vitejs/plugin-react';
import tailwindcss from '@tailwindcss/vite';
import { contractForPage } from './contractForPage.ts';

export default defineConfig({
  plugins: [contractForPage(), react(), tailwindcss()],
  resolve: { conditions: ['zest-source', ...defaultClientConditions] },
  worker: { format: 'es' },
  build: { target: 'es2022', sourcemap: true, chunkSizeWarningLimit: 700 },
  server: {
    host: '127.0.0.1',
    port: 5173,
    strictPort: true,
    // The server of `npm run dev`: its own page for pausing is opened through here as well.
    proxy: { '/api': 'http://127.0.0.1:4170', '/p': 'http://127.0.0.1:4170' },
  },
});
