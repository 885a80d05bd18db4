import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

const server = `http://127.0.0.1:${process.env['PORT'] ?? 4370}`

export default defineConfig({
  plugins: [vue()],
  server: { host: '127.0.0.1', port: Number(process.env['WEB_PORT'] ?? 4371), proxy: { '/api': server } },
  build: {
    rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'shared', minShareCount: 14 }] } } },
    target: 'es2022',
    chunkSizeWarningLimit: 700,
  },
})
