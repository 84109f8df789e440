import { fileURLToPath } from 'node:url';

import { defineConfig } from 'vitest/config';

// The tests of pure modules lie with the other tests; Django's runner starts them.
export default defineConfig({
    resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
    server: { fs: { strict: false } },
    test: {
        globals: true,
        environment: 'node',
        dir: fileURLToPath(new URL('../tests/web', import.meta.url)),
        include: ['**/*.test.ts'],
        cache: false,
    },
});
