import UnoCSS from '@unocss/vite'
import vue from '@vitejs/plugin-vue'
import icons from 'unplugin-icons/vite'
import { defineConfig, type Plugin } from 'vite'

const server = `http://127.0.0.1:${process.env['PORT'] ?? 4370}`

/** The page asks at once for every file of the start, so that none of its turns waits for one. */
const askedAtOnce: Plugin = {
  name: 'asked-at-once',
  apply: 'build',
  transformIndexHtml: {
    order: 'post',
    handler: (_html, { bundle = {}, chunk }) => {
      const asked = new Set<string>()
      const ask = (name: string) => {
        if (asked.has(name)) return
        asked.add(name)
        const file = bundle[name]
        if (file?.type === 'chunk') file.imports.forEach(ask)
      }
      chunk?.dynamicImports.forEach(ask)
      return [...asked].map((name) => ({
        tag: 'link',
        attrs: { rel: 'modulepreload', crossorigin: true, href: `/${name}` },
        injectTo: 'head' as const,
      }))
    },
  },
}

export default defineConfig({
  plugins: [UnoCSS(), vue(), icons({ compiler: 'vue3' }), askedAtOnce],
  server: { host: '127.0.0.1', port: Number(process.env['WEB_PORT'] ?? 4371), proxy: { '/api': server } },
  build: {
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: 'vue', test: /node_modules\/(@vue|vue|vue-router|pinia|@vueuse)\//, minShareCount: 14 },
            { name: 'themes', test: /node_modules\/naive-ui\/es\/(themes|_styles|[^/]+\/styles)\// },
            { name: 'lodash', test: /node_modules\/lodash-es\//, minShareCount: 14 },
            {
              name: 'kit',
              test: /node_modules\/(naive-ui|vueuc|vooks|css-render|@css-render|seemly|evtd|treemate|vdirs|@juggle)\//,
              minShareCount: 14,
            },
            { name: 'figures', test: /core\/kernel\/quantity\.ts$/ },
            { name: 'written', test: /web\/parts\/written\.ts$/ },
            { name: 'shared', minShareCount: 14 },
          ],
        },
      },
    },
    target: 'es2022',
    // Browsers of that age ask for the files themselves.
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 700,
  },
})
