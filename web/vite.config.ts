import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig(({ command }) => ({
    base: command === 'build' ? '/static/' : '/',
    plugins: [react()],
    build: { target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 900 },
    server: { proxy: { '/api': { target: 'http://127.0.0.1:8000', changeOrigin: false } } },
}));
