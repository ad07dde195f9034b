import { defineConfig } from 'vitest/config'
import react from '@vitejs/plugin-react'

export default defineConfig({
  plugins: [react()],
  test: { environment: 'jsdom', setupFiles: ['src/testing.ts'], restoreMocks: true, testTimeout: 60_000 },
})
