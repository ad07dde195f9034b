import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { defineConfig, type Plugin } from 'vite'

const library = join(import.meta.dirname, 'node_modules/pdfjs-dist')
const { version } = JSON.parse(readFileSync(join(library, 'package.json'), 'utf8')) as { version: string }

/** What the reader of PDF may need for one file and not for another; it is asked for by name. */
const data: Plugin = {
  name: 'pdf-data',
  generateBundle() {
    for (const folder of ['cmaps', 'standard_fonts', 'wasm'])
      for (const name of readdirSync(join(library, folder)).filter((n) => /\.(bcmap|pfb|ttf|wasm)$/.test(n)))
        if (!name.startsWith('quickjs'))
          // what runs the scripts of files, which nothing does here
          this.emitFile({
            type: 'asset',
            fileName: `assets/pdf-${version}/${folder}/${name}`,
            source: readFileSync(join(library, folder, name)),
          })
  },
}

// The reader of PDF is a page of its own: it runs in a frame without network and with an origin that is nobody's.
export default defineConfig({
  plugins: [data],
  publicDir: false,
  worker: { format: 'iife' }, // a frame whose origin is nobody's runs no other

  build: {
    outDir: '../internal/web/dist',
    emptyOutDir: false,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 2500,
    modulePreload: false,
    rolldownOptions: {
      input: 'pdf.html',
      output: { entryFileNames: 'assets/pdf-reader-[hash].js', assetFileNames: 'assets/pdf-reader-[hash][extname]' },
    },
  },
})
