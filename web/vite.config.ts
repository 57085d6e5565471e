import tailwindcss from '@tailwindcss/vite'
import vue from '@vitejs/plugin-vue'
import { readFileSync } from 'node:fs'
import { fileURLToPath, URL } from 'node:url'
import subsetFont from 'subset-font'
import { defineConfig, type Plugin } from 'vite'
import { compression, defineAlgorithm } from 'vite-plugin-compression2'

/**
 * What the desk needs for its first rows, in one file: on a slow line each file is a wait of its own. What it opens only when something is pressed
 * (features/desk/parts) and what only the other pages stand in comes after it.
 */
const FRAME =
  /preload-helper|node_modules[\\/](@?vue|pinia|@pinia|@headlessui|@tanstack|@lucide|openapi-fetch|vue-router)|src[\\/](api|stores|composables|router|components[\\/]ui|features[\\/](frame[\\/](TopBand|SkipLinks|alertGroups)|find[\\/]use|desk[\\/](left|lastDesk|later|use(Queue|Acts)|UndoLine)|cases[\\/]useCases|help[\\/](WhatIs|TourMark))|lib)/
const LATER =
  /lib[\\/](rules|alike|links|passkeys|charts|glossary|keys\.|savedReplies)|composables[\\/](usePosts|useAccuracy)|@headlessui[\\/].*[\\/](combobox|dialog|listbox|switch)[\\/]|components[\\/]ui[\\/](\w+Dialog|FileChips|MultiPick|TargetFields|WeekFields|NewPassword)|features[\\/]find[\\/]FindPalette|features[\\/]frame[\\/](SignInForm|AppFrame)|cases[\\/]CaseState/
const sorta = `http://127.0.0.1:${process.env.SORTA_PORT ?? '8700'}`

/** The weights of the text face that anything here is set in: normal to bold. What lies beyond them is a third of its file. */
const WEIGHTS = { min: 400, max: 700 }

const FACES = ['@fontsource/bricolage-grotesque', '@fontsource-variable/hanken-grotesk']

/** The files of the text face with these weights only, and the faces' licences. A file keeps its name, which is of what it is cut from. */
const cutFaces = (): Plugin => ({
  name: 'cut-faces',
  apply: 'build',
  async generateBundle(_, bundle) {
    const licences = FACES.map((face) => readFileSync(new URL(`node_modules/${face}/LICENSE`, import.meta.url), 'utf8'))
    this.emitFile({ type: 'asset', fileName: 'licences-of-typefaces.txt', source: licences.join('\n\n') })
    const letters = String.fromCodePoint(...Array.from({ length: 0xd800 - 0x20 }, (_, n) => n + 0x20))
    for (const asset of Object.values(bundle)) {
      if (asset.type === 'asset' && /wght-normal.*\.woff2$/.test(asset.fileName)) {
        const whole = Buffer.from(asset.source)
        asset.source = await subsetFont(whole, letters, { targetFormat: 'woff2', variationAxes: { wght: WEIGHTS } })
      }
    }
  },
})

export default defineConfig({
  plugins: [
    vue(),
    tailwindcss(),
    cutFaces(),
    // The server gives out what lies beside a part, as the browser takes it.
    compression({
      include: /\.(js|css|svg|json)$/,
      threshold: 500,
      algorithms: [defineAlgorithm('brotliCompress'), defineAlgorithm('gzip', { level: 9 })],
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // No component here is written by options.
  define: { __VUE_OPTIONS_API__: 'false' },
  server: { proxy: { '/api': sorta } },
  build: {
    chunkSizeWarningLimit: 700,
    cssCodeSplit: false,
    // Of what the pages are built from; what it is due is said where the words are.
    license: { fileName: 'licences.txt' },
    // A face within the styles would be loaded by everybody, whatever letters they read.
    assetsInlineLimit: (file) => (file.endsWith('.woff2') ? false : undefined),
    rolldownOptions: {
      output: {
        codeSplitting: {
          includeDependenciesRecursively: false,
          groups: [
            { name: 'frame', test: (id: string) => FRAME.test(id) && !LATER.test(id), priority: 2 },
            { name: 'dialogs', test: LATER, priority: 1, minShareCount: 2 },
          ],
        },
      },
    },
  },
})
