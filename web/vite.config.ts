import react from '@vitejs/plugin-react';
import type { AtRule, Helpers, Root } from 'postcss';
import { defineConfig } from 'vitest/config';

/** The layers of styles, those of a later one before those of an earlier: the floors of src, MUI's own above the theme. */
const LAYERS =
  'theme, mui, parts, definition, sheet, margin, editors, brief, chart, intake, start, screens, app'.split(
    ', ',
  );

/** Puts each style sheet of src into the layer of its floor, and the order of all layers before it: what counts never hangs on
 * which is loaded first. */
const layered = {
  postcssPlugin: 'layered',
  Once(root: Root, helpers: Helpers) {
    const folder = /\/src\/([^/]+)\//.exec(root.source?.input.file ?? '')?.[1];
    if (!folder) return;
    const params = LAYERS.includes(folder) ? folder : 'screens';
    const layer: AtRule = new helpers.AtRule({ name: 'layer', params, nodes: [] });
    layer.append(root.nodes);
    root.removeAll();
    root.append(layer);
    root.prepend(new helpers.AtRule({ name: 'layer', params: LAYERS.join(', ') }));
  },
};

export default defineConfig({
  plugins: [react()],
  test: { css: true }, // style sheets are read by a test, too
  css: { postcss: { plugins: [layered] } },
  build: { outDir: '../src/kalendor/page', emptyOutDir: true, chunkSizeWarningLimit: 1500 },
  server: { proxy: { '/api': 'http://127.0.0.1:8765' } },
});
