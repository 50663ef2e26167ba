import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, loadEnv } from 'vite'

const { HANDFUL_PORT = '8420' } = loadEnv('', '.', 'HANDFUL_')

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 1200 },
  server: {
    proxy: { '/api': { target: `http://127.0.0.1:${HANDFUL_PORT}`, changeOrigin: false } },
  },
})
