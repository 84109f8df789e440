import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

const TEXT = /\.(js|css|svg|html)$/;

/** Every file of text beside itself in a compressed form: compressed once, not for every request. */
function compressed(): Plugin {
    let folder = '';
    return {
        name: 'compressed',
        apply: 'build',
        configResolved: (config) => {
            folder = config.build.outDir;
        },
        closeBundle: () => {
            for (const entry of readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) => TEXT.test(name))) {
                const path = join(folder, entry);
                const text = readFileSync(path);
                writeFileSync(`${path}.gz`, gzipSync(text, { level: 9 }));
                writeFileSync(`${path}.br`, brotliCompressSync(text, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }));
            }
        },
    };
}

export default defineConfig(({ command }) => ({
    base: command === 'build' ? '/static/' : '/',
    plugins: [react(), compressed()],
    build: { target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 900 },
    server: { proxy: { '/api': { target: 'http://127.0.0.1:8000', changeOrigin: false } } },
}));
