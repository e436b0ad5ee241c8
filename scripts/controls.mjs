// The page of controls (docs/controls.md) as HTML: the real components, drawn once without a browser.
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { createServer } from 'vite';
import { root } from './steps.mjs';

const web = join(root, 'packages/web');

/** `styles` are the addresses of the built style sheets. */
export async function controlsPage(styles) {
  const { createElement } = createRequire(join(web, 'package.json'))('react');
  const { renderToStaticMarkup } = createRequire(join(web, 'package.json'))('react-dom/server');
  const server = await createServer({
    root: web,
    configFile: join(web, 'vite.config.ts'),
    server: { middlewareMode: true, hmr: false, ws: false },
    appType: 'custom',
    logLevel: 'error',
  });
  try {
    const { Controls } = await server.ssrLoadModule('/src/testing/Controls.tsx');
    const links = styles.map((href) => `<link rel="stylesheet" href="${href}">`).join('');
    return `<!doctype html><html lang="en"><head>${links}</head><body>${renderToStaticMarkup(createElement(Controls))}</body></html>`;
  } finally {
    await server.close();
  }
}
