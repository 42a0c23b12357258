import { readdirSync, readFileSync, mkdtempSync, rmSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { writeBootImage } from '@/core/formats/boot-image/writer';
import { archiveBytes, makeEntry, makeTrailer, TYPE } from '@/core/formats/cpio/cpio-archive';
import { nodePorts } from '@/platform/node/node-ports';
import { noise, programLike } from '@/demo/noise';
import { FRAMES } from './bench-full-bench';
import { CHROMIUM, ensureBuilt, ensureChromium } from './prepare.mjs';
import { environment, migrate, startServerSomewhere, stop } from './stack.mjs';

/* The Image room with an image of 256 MiB whose ramdisk has 40,000 entries. */

const MIB = 1024 * 1024;
const ENTRIES = 40_000;

export interface LargeImage {
  /** From the page's address to its list of entries. */
  readonly openMs: number;
  readonly longestTaskMs: number;
  /** While its entries are scrolled through and searched, in milliseconds. */
  readonly frameMedianMs: number;
  readonly frameMostMs: number;
  /** Most that the page and its workers held at once; MB. */
  readonly peakMb: number;
}

async function largeImage(): Promise<Uint8Array<ArrayBuffer>> {
  const fields = { mode: TYPE.file | 0o644, nlink: 1, uid: 0, gid: 0, mtime: 0 };
  const device = { devmajor: 0, devminor: 0, rdevmajor: 0, rdevminor: 0 };
  const program = programLike(3, 4 * MIB);
  const entries = Array.from({ length: ENTRIES }, (_, i) =>
    makeEntry(
      '070701',
      false,
      { ino: i + 1, ...fields, ...device },
      new TextEncoder().encode(`lib/modules/group-${i % 200}/part-${i}.ko`),
      program.subarray((i * 97) % (3 * MIB), ((i * 97) % (3 * MIB)) + 1500 + (i % 900)),
    ),
  );
  const plain = archiveBytes({ entries, trailer: makeTrailer() });
  const image = writeBootImage({
    version: 4,
    pageSize: 4096,
    osVersionField: 0,
    name: '',
    cmdline: '',
    kernel: noise(4, 100 * MIB),
    ramdisk: await nodePorts.codecs.encode('lz4-legacy', plain),
  });
  const whole = new Uint8Array(256 * MIB);
  whole.set(image);
  return whole;
}

/** Most memory that any page of this browser held, workers and all; MB. Linux tells it of each process. */
export function peakOfPages(): number {
  let most = 0;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) continue;
      const [, kib] = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, 'utf8')) ?? [];
      most = Math.max(most, Number(kib ?? 0) / 1024);
    } catch {
      // it has ended meanwhile
    }
  return most;
}

export async function measureLargeImage(): Promise<LargeImage> {
  ensureChromium();
  ensureBuilt();
  const dir = mkdtempSync(join(tmpdir(), 'eterno-bench-'));
  const env = environment(dir);
  migrate(env);
  const { port, server } = await startServerSomewhere(env);
  const url = `http://127.0.0.1:${port}`;
  try {
    const image = await largeImage();
    const sha256 = createHash('sha256').update(image).digest('hex');
    const kept = await fetch(`${url}/api/images/${sha256}?from=file&name=large.img`, {
      method: 'PUT',
      headers: { origin: url, 'content-type': 'application/octet-stream' },
      body: new Blob([image]),
    });
    if (!kept.ok) throw new Error(await kept.text());
    return await look(`${url}/images/${sha256}`);
  } finally {
    await stop(server);
    rmSync(dir, { recursive: true, force: true });
  }
}

async function look(url: string): Promise<LargeImage> {
  const browser = await chromium.launch({
    executablePath: CHROMIUM,
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(
      `window.longTasks = []; new PerformanceObserver((list) => list.getEntries().forEach((entry) => longTasks.push(entry.duration))).observe({ entryTypes: ['longtask'] });`,
    );
    const began = performance.now();
    await page.goto(url);
    // what the page itself needs to come alive is no matter of the image
    await page.getByText('Taking the image apart').waitFor();
    await page.waitForTimeout(300);
    await page.evaluate('longTasks.splice(0)');
    const list = page.getByRole('region', { name: `${ENTRIES} ramdisk entries` });
    await list.waitFor({ timeout: 120_000 });
    const openMs = performance.now() - began;
    await page.waitForTimeout(1000);
    await list.hover();
    const frames = page.evaluate<number[]>(FRAMES);
    for (let turn = 0; turn < 30; turn += 1) {
      await page.mouse.wheel(0, 5000);
      await page.waitForTimeout(50);
    }
    await page.getByLabel('Search entries').fill('part-39');
    const sorted = (await frames).sort((a, b) => a - b);
    const tasks = await page.evaluate<number[]>('longTasks');
    return {
      openMs,
      longestTaskMs: Math.max(0, ...tasks),
      frameMedianMs: sorted[sorted.length >> 1]!,
      frameMostMs: sorted[Math.floor(sorted.length * 0.95)]!,
      peakMb: peakOfPages(),
    };
  } finally {
    await browser.close();
  }
}
