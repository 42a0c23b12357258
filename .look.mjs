import { mkdtempSync, mkdirSync } from 'node:fs';
import { chromium } from 'playwright-core';
import { environment, makeDemo, startServerSomewhere, stop, startStandIn, stopStandIn } from './scripts/stack.mjs';
mkdirSync('/tmp/shots', { recursive: true });
const dir = mkdtempSync('/tmp/look-');
const env = environment(dir, { ETERNO_DEMO_SYSTEM_MIB: '12' });
setTimeout(() => process.exit(2), 280000).unref();
makeDemo(env);
await startStandIn(env);
const { port, server } = await startServerSomewhere(env);
const base = `http://127.0.0.1:${port}`;
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
export const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const shot = (n, full=false) => page.screenshot({ path: `/tmp/shots/${n}.png`, fullPage: full });
const H = (n) => `0b5a3d52-6f0e-4c52-9b57-1f6d2f1a000${n}`;
try {
  await (await import(process.argv[2])).default({ page, base, shot, H, env, browser });
} catch (e) { console.error(e); }
await browser.close(); await stop(server); await stopStandIn(env); process.exit(0);
