import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  root: 'web',
  // A line break between two words of a template is a space, as everywhere in HTML: a formatter breaks the lines.
  plugins: [vue({ template: { compilerOptions: { whitespace: 'preserve' } } })],
  cacheDir: '../node_modules/.vite',
  // Everything as a file of its own: the content security policy allows no inline data for fonts.
  build: { outDir: '../public', emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
})
