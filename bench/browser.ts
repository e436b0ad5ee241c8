/** Debian's Chromium without windows, for tests and for the bench. */
import puppeteer, { type Browser } from 'puppeteer-core';

export const launchBrowser = (): Promise<Browser> =>
  puppeteer.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium-headless-shell',
    headless: 'shell',
    // It ends with this process, however that ends.
    pipe: true,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--disable-dev-shm-usage',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--force-color-profile=srgb',
      '--font-render-hinting=none',
      '--lang=en-US',
      // Nothing to wait for between a click and what it opens.
      '--force-prefers-reduced-motion',
    ],
    defaultViewport: { width: 1280, height: 800, deviceScaleFactor: 1 },
  });
