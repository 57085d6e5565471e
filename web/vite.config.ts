import tailwindcss from '@tailwindcss/vite'
import vue from '@vitejs/plugin-vue'
import { fileURLToPath, URL } from 'node:url'
import { defineConfig } from 'vite'
import { compression, defineAlgorithm } from 'vite-plugin-compression2'

const sorta = `http://127.0.0.1:${process.env.SORTA_PORT ?? '8700'}`

export default defineConfig({
  plugins: [
    vue(),
    tailwindcss(),
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
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            // What every page needs, in few files: on a slow line each is a wait of its own.
            {
              name: 'frame',
              test: /node_modules[\\/](@?vue|pinia|@pinia|@headlessui|@tanstack|openapi-fetch|vue-router)|src[\\/](api|stores|composables|components[\\/]ui|features[\\/]frame|features[\\/]find|lib[\\/](?!rules|reports|passkeys|charts))/,
              minShareCount: 3,
            },
            {
              name: 'work',
              test: /src[\\/](features[\\/](desk|cases|advice|people|help)[\\/]|components[\\/]ui[\\/]|composables[\\/]|lib[\\/](?!passkeys|charts))/,
              minShareCount: 2,
            },
          ],
        },
      },
    },
  },
})
