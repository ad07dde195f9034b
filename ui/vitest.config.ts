import { defineConfig } from 'vitest/config'
import react from '@vitejs/plugin-react'

// What is pure runs without a document, which takes a second to make for each file.
const shared = { restoreMocks: true, testTimeout: 60_000 }

export default defineConfig({
  plugins: [react()],
  test: {
    projects: [
      { extends: true, test: { ...shared, name: 'pure', environment: 'node', include: ['src/**/*.test.ts'] } },
      {
        extends: true,
        test: {
          ...shared,
          name: 'kit',
          isolate: false, // the parts are read once, not for each file
          fileParallelism: false,
          environment: 'jsdom',
          include: ['src/**/*.test.tsx'],
          setupFiles: ['src/testing.ts'],
        },
      },
    ],
  },
})
