import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

/** Icons come in six weights; of each only those ship that are drawn: the usual one, and what a tag asks for by name. */
const drawn = new Map<string, Set<string>>()
const sources = join(import.meta.dirname, 'src')
for (const file of readdirSync(sources, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.tsx')))
  for (const [, icon, weight] of readFileSync(join(sources, file), 'utf8').matchAll(
    /<(\w+)Icon\b[^>]*\bweight="(\w+)"/g,
  ))
    drawn.set(icon, (drawn.get(icon) ?? new Set()).add(weight))

const onlyDrawn: Plugin = {
  name: 'only-drawn',
  enforce: 'pre',
  transform(code, id) {
    const icon = /@phosphor-icons\/react\/dist\/defs\/(\w+)\.es\.js/.exec(id)?.[1]
    if (!icon) return undefined
    const ships = (weight: string) => weight === 'regular' || drawn.get(icon)?.has(weight)
    return {
      code: code.replace(/\n {2}\[\n {4}"(\w+)",[\s\S]*?\n {2}\],?/g, (def, weight: string) =>
        ships(weight) ? def : '',
      ),
      map: null,
    }
  },
}

export default defineConfig({
  plugins: [onlyDrawn, react(), tailwindcss()],
  build: {
    outDir: '../internal/web/dist',
    emptyOutDir: false,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    // The first load is in one piece, which is smaller and comes sooner than many.
    rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'first', tags: ['$initial'] }] } } },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
})
