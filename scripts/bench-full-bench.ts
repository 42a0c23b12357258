import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM, ensureBuilt, ensureChromium } from './prepare.mjs';
import { environment, fillBench, migrate, startServerSomewhere, stop } from './stack.mjs';

/*
 * The bench with 40 handsets and four years of rounds: what its page costs beside one with a handset, and how
 * it scrolls.
 */

const HANDSETS = 40;
const MONTHS = 48;

export interface FullBench {
  /** Its page beside that of one handset with one month, as the server sends it. */
  readonly pageRatio: number;
  /** Of a scroll through all of it, in milliseconds. */
  readonly frameMedianMs: number;
  readonly frameMostMs: number;
}

/**
 * Run in the page, and so as text: what the loader adds to functions is not there.
 * @returns milliseconds between frames
 */
export const FRAMES = `new Promise((done) => {
  const seen = [];
  const end = performance.now() + 4000;
  let last = performance.now();
  const frame = (at) => {
    seen.push(at - last);
    last = at;
    if (at < end) requestAnimationFrame(frame);
    else done(seen.slice(2));
  };
  requestAnimationFrame(frame);
})`;

async function pageMs(url: string): Promise<number> {
  let least = Infinity;
  for (let turn = 0; turn < 6; turn += 1) {
    const began = performance.now();
    await (await fetch(url)).text();
    if (turn > 0) least = Math.min(least, performance.now() - began);
  }
  return least;
}

async function withServer<T>(
  handsets: number,
  months: number,
  work: (url: string) => Promise<T>,
): Promise<T> {
  const dir = mkdtempSync(join(tmpdir(), 'eterno-bench-'));
  const env = environment(dir);
  migrate(env);
  fillBench(env, handsets, months);
  const { port, server } = await startServerSomewhere(env);
  try {
    return await work(`http://127.0.0.1:${port}/`);
  } finally {
    await stop(server);
    rmSync(dir, { recursive: true, force: true });
  }
}

export async function measureFullBench(): Promise<FullBench> {
  ensureChromium();
  ensureBuilt();
  const one = await withServer(1, 1, pageMs);
  return withServer(HANDSETS, MONTHS, async (url) => {
    const all = await pageMs(url);
    const browser = await chromium.launch({
      executablePath: CHROMIUM,
      args: ['--no-sandbox', '--disable-gpu'],
    });
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.goto(url);
      await page.getByText('4 years', { exact: true }).click();
      await page.waitForTimeout(1500);
      await page.mouse.move(500, 400);
      const frames = page.evaluate<number[]>(FRAMES);
      for (let turn = 0; turn < 44; turn += 1) {
        await page.mouse.wheel(0, turn < 22 ? 160 : -160);
        await page.waitForTimeout(70);
      }
      const sorted = (await frames).sort((a, b) => a - b);
      return {
        pageRatio: all / one,
        frameMedianMs: sorted[sorted.length >> 1]!,
        frameMostMs: sorted[Math.floor(sorted.length * 0.95)]!,
      };
    } finally {
      await browser.close();
    }
  });
}
