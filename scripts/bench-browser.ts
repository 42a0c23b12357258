import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { chromium } from '@playwright/test';
import { peakOfPages } from './bench-large-image';
import { CHROMIUM, ensureBuilt, ensureChromium } from './prepare.mjs';
import { environment, makeDemo, startServerSomewhere, stop } from './stack.mjs';

export interface InBrowser {
  readonly takeMs: number;
  readonly hashMsPerMiB: number;
  readonly longestTaskMs: number;
  /** Most that the page and its workers held at once; MB. */
  readonly peakMb: number;
}

/**
 * The same work in a real browser on the built application: time as the room shows it, and tasks that held
 * the page up.
 */
export async function measureInBrowser(packagePath: string, imagePath: string): Promise<InBrowser> {
  ensureChromium();
  ensureBuilt();
  const dir = mkdtempSync(join(tmpdir(), 'eterno-bench-'));
  const env = environment(dir, { ETERNO_DEMO_SYSTEM_MIB: '8' });
  makeDemo(env);
  const { port, server } = await startServerSomewhere(env);
  const browser = await chromium.launch({
    executablePath: CHROMIUM,
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    const page = await browser.newPage();
    await page.addInitScript(() => {
      const seen: number[] = [];
      Object.assign(window, { longTasks: seen });
      new PerformanceObserver((list) =>
        list.getEntries().forEach((entry) => seen.push(entry.duration)),
      ).observe({ entryTypes: ['longtask'] });
    });
    await page.goto(`http://127.0.0.1:${port}/firmware`);
    await page.getByLabel('Choose a firmware package').setInputFiles(packagePath);
    const box = page.getByRole('checkbox', { name: 'boot', exact: true });
    await box.check();
    await page.waitForTimeout(2000);
    await page.evaluate(() => (window as unknown as { longTasks: number[] }).longTasks.splice(0));
    // the upload that follows is the server's time, not the worker's
    const takeMs = await shownAfter(page, 'Take out boot', 'Into the vault, hashed again there|in the vault');
    await page.getByRole('link', { name: 'in the vault' }).waitFor({ timeout: 120_000 });
    const tasks = await page.evaluate(() => (window as unknown as { longTasks: number[] }).longTasks);
    const peakMb = peakOfPages();
    const hashMs = await hashIn(page, imagePath);
    return { takeMs, hashMsPerMiB: hashMs / 256, longestTaskMs: Math.max(0, ...tasks), peakMb };
  } finally {
    await browser.close();
    await stop(server);
    rmSync(dir, { recursive: true, force: true });
  }
}

/** From the press of a button to the words that say it is done, as the page itself sees both; milliseconds. */
const shownAfter = (page: Page, button: string, words: string): Promise<number> =>
  page.evaluate(
    ([label, pattern]) =>
      new Promise<number>((resolve) => {
        const pressed = [...document.querySelectorAll('button')].find(
          ({ textContent }) => textContent?.trim() === label,
        )!;
        const done = new RegExp(pattern!);
        const began = performance.now();
        pressed.click();
        // no function of a name: what loads this script would wrap it in a helper that the page has not got
        const timer = setInterval(() => {
          if (!done.test(document.body.innerText)) return;
          clearInterval(timer);
          resolve(performance.now() - began);
        }, 5);
      }),
    [button, words],
  );

/** The hash bench of the room: SHA-256 in a worker of its own; milliseconds. */
async function hashIn(page: Page, imagePath: string): Promise<number> {
  await page.reload();
  await page.getByLabel('Choose a firmware package').setInputFiles(imagePath);
  const start = page.getByRole('button', { name: 'Hash the file' });
  await start.waitFor({ timeout: 60_000 });
  await page.waitForTimeout(1000);
  return shownAfter(page, 'Hash the file', 'Hash it again');
}
