import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

/** Icons come in six weights, of which three are drawn here: the others do not ship. */
const threeWeights: Plugin = {
  name: 'three-weights',
  enforce: 'pre',
  transform: (code, id) =>
    id.includes('@phosphor-icons/react/dist/defs/')
      ? { code: code.replace(/\n {2}\[\n {4}"(duotone|light|thin)",[\s\S]*?\n {2}\],?/g, ''), map: null }
      : undefined,
}

export default defineConfig({
  plugins: [threeWeights, react(), tailwindcss()],
  build: { outDir: '../internal/web/dist', emptyOutDir: false, assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
})
