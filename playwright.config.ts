import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './scripts/prepare.mjs';
import { chooseTestFolder } from './scripts/test-folder.mjs';

chooseTestFolder();

export default defineConfig({
  testDir: 'tests/e2e',
  workers: 2,
  fullyParallel: true,
  // guards against what hangs: a busy machine is several times slower than a quiet one
  timeout: 600_000,
  expect: { timeout: 90_000 },
  reporter: [['list']],
  globalSetup: './tests/e2e/make-world.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    screenshot: 'off',
    // a click on a part that still moves lands beside it
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: CHROMIUM,
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
