import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import type { HandsetState } from '@/core/handset/state';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { updateHandset } from '@/server/repositories/handset-repository';
import { findRound } from '@/server/repositories/round-repository';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { knownFacts } from '@/server/services/fact-service';
import { readFactsFromLink } from '@/server/services/link-facts';
import { readBackOverLink } from '@/server/services/read-back-service';
import { slotCells } from '@/server/services/slot-service';
import { storeImage, storeKit } from '@/server/services/image-service';
import { cancelJob, listJobs, startJob } from '@/server/services/jobs';
import { enterBootloader, proveOverLink, readFactsOverLink, restartOverLink, sendToBootloader, writeOverLink } from '@/server/services/link-steps';
import { newestMessageId, subscribe } from '@/server/services/message-bus';
import { closeRound, confirmChecks, startRound } from '@/server/services/round-service';
import { roundView } from '@/server/services/round-view';
import { forceImage, pressKey, setCable, standInView, withSystem } from '@/server/services/stand-in-service';
import type { RunningStandIn } from '@/stand-in/run-stand-in';
import { runStandIn } from '@/stand-in/run-stand-in';
import { ended } from '../fixtures/ended-job';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { kitZip, stockImage } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';
import { makeHill, OTHER_MONTH } from '../fixtures/stand-in-world';

/* The server's own steps over the links: a real database and vault, a real stand-in on real sockets. */

let server: Awaited<ReturnType<typeof freshServer>>;
let standIn: RunningStandIn | null = null;
let stock: Uint8Array;
let patchedSha: string;
let otherMonthSha: string;

const SYSTEM = { mode: 'system', running: { slot: 'a', build: '', rooted: false } } as const;

async function begin(change: Partial<HandsetState> = {}, speed = 60): Promise<string> {
  const other = await stockImage({ fingerprint: OTHER_MONTH });
  stock = await stockImage();
  await makeHill(
    server.dir,
    { a: stock, b: other },
    { ...SYSTEM, running: { slot: 'a', build: (await import('../fixtures/images')).FINGERPRINT, rooted: false }, ...change },
  );
  standIn = await runStandIn({ dataDir: server.dir, profile: 'test', wirePort: 0, speed });
  const handset = await addHandset('North', DUMP);
  await updateHandset(handset, { link: 'stand-in' });
  return handset;
}

async function keepImages(): Promise<void> {
  const kitBytes = await kitZip();
  await storeKit(sha256(kitBytes), pieces(kitBytes), 'burrow.kit.zip');
  const { kit } = await readKit(memorySource(kitBytes), nodePorts);
  const keep = async (bytes: Uint8Array) => {
    await storeImage(sha256(bytes), pieces(bytes), { from: 'package', package: 'hill.zip', partition: 'init_boot', verified: 'yes' });
    const patched = await patchImage(memorySource(bytes), kit, nodePorts);
    await storeImage(patched.sha256, pieces(patched.bytes), { from: 'patch', stock: sha256(bytes), kit: sha256(kitBytes) });
    return patched.sha256;
  };
  patchedSha = await keep(stock);
  otherMonthSha = await keep(await stockImage({ fingerprint: OTHER_MONTH }));
}

const version = async (id: string) => (await findRound(id))!.version;
const step = async (id: string) => {
  const view = await roundView(id);
  return view.current === null ? null : view.steps[view.current]!;
};

async function untilMode(mode: HandsetState['mode']): Promise<void> {
  for (let i = 0; i < 200; i += 1) {
    if ((await standInView())?.state.mode === mode) return;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error(`never reached ${mode}`);
}

async function toWrite(handset: string): Promise<string> {
  const id = await startRound(handset);
  await readFactsOverLink(id, await version(id));
  await keepImages();
  await sendToBootloader(id, await version(id));
  await untilMode('bootloader');
  await enterBootloader(id, await version(id));
  await confirmChecks(id, await version(id), []);
  return id;
}
async function written(handset: string): Promise<string> {
  const id = await toWrite(handset);
  expect(await ended(await writeOverLink(id, await version(id), 'patched'))).toMatchObject({ state: 'done' });
  return id;
}
async function keepInBootloader(): Promise<void> {
  await pressKey('down', true);
  await pressKey('power', true);
  await untilMode('bootloader');
  await pressKey('power', false);
  await pressKey('down', false);
}

beforeEach(async () => {
  server = await freshServer();
});
afterEach(async () => {
  await standIn?.close();
  standIn = null;
  await server.end();
});

describe('a round over the link', () => {
  it('ends proved, with strong evidence for every claim', async () => {
    const handset = await begin();
    const id = await written(handset);
    expect((await slotCells(handset))[0]).toMatchObject({ slot: 'a', sha256: patchedSha, verdict: 'predicted' });
    expect(await ended(await restartOverLink(id, await version(id)))).toMatchObject({ state: 'done' });
    const proving = await proveOverLink(id, await version(id));
    await new Promise((resolve) => setTimeout(resolve, 150));
    await pressKey('up', true);
    await pressKey('up', false);
    expect(await ended(proving)).toMatchObject({ state: 'done' });
    expect((await slotCells(handset))[0]).toMatchObject({ sha256: patchedSha, verdict: 'read' });
    const { signOff } = await roundView(id);
    expect(signOff.flatMap((claim) => claim.evidence).every((item) => item.strength === 'strong')).toBe(true);
    await closeRound(id, await version(id));
    expect((await benchRows())[0]!.root).toBe('proven');
  });

  it('reads facts from the running system, and only from this handset', async () => {
    const handset = await begin();
    const id = await startRound(handset);
    await readFactsOverLink(id, 0);
    expect((await step(id))!.key).toBe('find-package');
    const other = await addHandset('Another', DUMP.replace('SERIAL42', 'OTHER99'));
    await updateHandset(other, { link: 'stand-in' });
    const second = await startRound(other);
    expect(await codeOf(() => readFactsOverLink(second, 0))).toBe('refused');
    expect((await step(second))!.key).toBe('read-facts');
  });

  it('is refused for a handset that is not linked', async () => {
    const handset = await begin();
    await updateHandset(handset, { link: 'hand' });
    const id = await startRound(handset);
    expect(await codeOf(() => readFactsOverLink(id, 0))).toBe('refused');
  });

  it('says so when the handset is not in its bootloader yet', async () => {
    const handset = await begin();
    const id = await startRound(handset);
    await readFactsOverLink(id, await version(id));
    await keepImages();
    const error = await errorOf(async () => enterBootloader(id, await version(id)));
    expect(error).toMatchObject({ code: 'link-lost' });
    expect(error.message).toContain('not in its bootloader');
  });

  it('says so when no stand-in runs', async () => {
    const handset = await begin();
    const id = await startRound(handset);
    await standIn!.close();
    standIn = null;
    expect(await codeOf(() => readFactsOverLink(id, 0))).toBe('link-lost');
    expect(await standInView()).toBeNull();
  });
});

describe('the last look before the first byte', () => {
  it('refuses when another slot is active than the one that was checked', async () => {
    const handset = await begin();
    const id = await toWrite(handset);
    const { withBootloader } = await import('@/server/services/stand-in-service');
    await withBootloader((client) => client.command('set_active:b'));
    const job = await ended(await writeOverLink(id, await version(id), 'patched'));
    expect(job).toMatchObject({ state: 'failed', error: { code: 'refused' } });
    expect(job.error!.message).toContain('Slot b is active now');
    expect((await step(id))!.evidence[0]!.what).toContain('nothing was written');
    expect(await slotCells(handset)).toEqual([]);
  });

  it('refuses a battery that is too low', async () => {
    const handset = await begin({ batteryPercent: 20 });
    const id = await startRound(handset);
    await readFactsOverLink(id, await version(id));
    await keepImages();
    await sendToBootloader(id, await version(id));
    await untilMode('bootloader');
    await enterBootloader(id, await version(id));
    const error = await errorOf(async () => confirmChecks(id, await version(id), [{ checkId: 'battery', reason: 'it will do' }]));
    expect(error).toMatchObject({ code: 'refused' });
    expect((await roundView(id)).checks.find((check) => check.id === 'battery')).toMatchObject({ verdict: 'fails', overridable: false });
  });

  it('runs one write at a time', async () => {
    const handset = await begin({}, 10);
    const id = await toWrite(handset);
    const first = await writeOverLink(id, await version(id), 'patched');
    const again = async () => writeOverLink(id, await version(id), 'patched');
    expect(await codeOf(again)).toBe('conflict');
    expect(await ended(first)).toMatchObject({ state: 'done' });
  });
});

describe('when it goes wrong', () => {
  it('a cable lost in the write leaves the step open and the partition unknown, and writing again mends it', async () => {
    const handset = await begin({}, 0.4);
    await standIn!.close();
    standIn = await runStandIn({ dataDir: server.dir, profile: 'test', wirePort: 0, speed: 20 });
    const id = await toWrite(handset);
    await standIn.close();
    standIn = await runStandIn({ dataDir: server.dir, profile: 'test', wirePort: 0, speed: 0.2 });
    const job = await writeOverLink(id, await version(id), 'patched');
    await new Promise((resolve) => setTimeout(resolve, 200));
    await setCable(false);
    expect(await ended(job)).toMatchObject({ state: 'failed', error: { code: 'link-lost' } });
    expect(await step(id)).toMatchObject({ key: 'write-image', state: 'failed' });
    expect((await slotCells(handset))[0]).toMatchObject({ verdict: 'unknown', sha256: null });
    await setCable(true);
    await standIn.close();
    standIn = await runStandIn({ dataDir: server.dir, profile: 'test', wirePort: 0, speed: 60 });
    expect(await ended(await writeOverLink(id, await version(id), 'patched'))).toMatchObject({ state: 'done' });
    expect((await slotCells(handset))[0]).toMatchObject({ sha256: patchedSha });
  });

  it('another month’s image, forced, loops; the stock image from the vault brings it back', async () => {
    const handset = await begin();
    const id = await written(handset);
    await forceImage(otherMonthSha, 'init_boot_a');
    const restart = await ended(await restartOverLink(id, await version(id)));
    expect(restart).toMatchObject({ state: 'failed', error: { code: 'handset-refused' } });
    expect((await benchRows())[0]!.root).toBe('broken');
    await keepInBootloader();
    expect(await ended(await writeOverLink(id, await version(id), 'stock'))).toMatchObject({ state: 'done' });
    expect(await step(id)).toMatchObject({ key: 'write-image', state: 'waiting' });
    expect((await slotCells(handset))[0]).toMatchObject({ sha256: sha256(stock) });
    expect((await benchRows())[0]!.root).toBe('stock');
    expect(await ended(await writeOverLink(id, await version(id), 'patched'))).toMatchObject({ state: 'done' });
    expect(await ended(await restartOverLink(id, await version(id)))).toMatchObject({ state: 'done' });
  });

  it('a start that fell back to the other slot is not taken for success', async () => {
    const handset = await begin();
    const id = await written(handset);
    const { withBootloader } = await import('@/server/services/stand-in-service');
    await withBootloader((client) => client.command('set_active:a'));
    await forceImage(otherMonthSha, 'init_boot_a');
    const restart = await ended(await restartOverLink(id, await version(id)));
    expect(restart.error!.message).toContain('fell back');
    expect((await step(id))!.key).toBe('restart');
  });

  it('root that is denied at the prompt is not proved, and can be asked for again', async () => {
    const handset = await begin();
    const id = await written(handset);
    await ended(await restartOverLink(id, await version(id)));
    const proving = await proveOverLink(id, await version(id));
    await new Promise((resolve) => setTimeout(resolve, 150));
    await pressKey('down', true);
    await pressKey('down', false);
    expect(await ended(proving)).toMatchObject({ state: 'failed', error: { code: 'handset-refused' } });
    expect(await step(id)).toMatchObject({ key: 'prove-root', state: 'failed' });
    const again = await proveOverLink(id, await version(id));
    await new Promise((resolve) => setTimeout(resolve, 150));
    await pressKey('up', true);
    await pressKey('up', false);
    expect(await ended(again)).toMatchObject({ state: 'done' });
  });

  it('root whose read-back is another image is not proved', async () => {
    const handset = await begin();
    const id = await written(handset);
    await ended(await restartOverLink(id, await version(id)));
    await forceImage(otherMonthSha, 'init_boot_a');
    const proving = await proveOverLink(id, await version(id));
    await new Promise((resolve) => setTimeout(resolve, 150));
    await pressKey('up', true);
    await pressKey('up', false);
    expect(await ended(proving)).toMatchObject({ state: 'failed', error: { code: 'bad-hash' } });
    expect((await benchRows())[0]!.root).not.toBe('proven');
  });

  it('waiting for the prompt can be stopped', async () => {
    const handset = await begin();
    const id = await written(handset);
    await ended(await restartOverLink(id, await version(id)));
    const proving = await proveOverLink(id, await version(id));
    await new Promise((resolve) => setTimeout(resolve, 100));
    cancelJob(proving.id);
    expect(await ended(proving)).toMatchObject({ state: 'cancelled' });
    expect(await step(id)).toMatchObject({ key: 'prove-root', state: 'failed' });
  });
});

describe('read-back over the link', () => {
  it('asks for root, reads every partition of both slots, keeps what is new, and makes the map a read one', async () => {
    const handset = await begin();
    const round = await written(handset);
    await ended(await restartOverLink(round, await version(round)));
    const job = await readBackOverLink(handset);
    const end = ended(job);
    for (let i = 0; i < 200 && (await standInView())?.state.rootRequest !== 'asked'; i += 1) await new Promise((resolve) => setTimeout(resolve, 20));
    await pressKey('up', true);
    await pressKey('up', false);
    expect(await end).toMatchObject({ state: 'done', error: null });
    const cells = await slotCells(handset);
    expect(cells.map(({ slot, partition, verdict, sha256: hash }) => [slot, partition, verdict, hash])).toEqual([
      ['a', 'init_boot', 'read', patchedSha],
      ['b', 'init_boot', 'read', sha256(await stockImage({ fingerprint: OTHER_MONTH }))],
    ]);
  });
  it('is refused without root, and for a handset that is not linked', async () => {
    const handset = await begin();
    expect(await ended(await readBackOverLink(handset))).toMatchObject({ state: 'failed', error: { code: 'handset-refused' } });
    expect(await slotCells(handset)).toEqual([]);
    await updateHandset(handset, { link: 'hand' });
    expect(await codeOf(() => readBackOverLink(handset))).toBe('refused');
    expect(await codeOf(() => readFactsFromLink(handset))).toBe('refused');
  });
  it('reads facts in whatever mode answers', async () => {
    const handset = await begin();
    await updateHandset(handset, { link: 'stand-in' });
    expect(await readFactsFromLink(handset)).toBe('system');
    await withSystem((client) => client.ask({ do: 'restart', to: 'bootloader' }));
    await untilMode('bootloader');
    expect(await readFactsFromLink(handset)).toBe('bootloader');
    expect((await knownFacts(handset)).resolved.find((fact) => fact.key === 'currentSlot')?.tellings.map(({ witness }) => witness)).toEqual([
      'bootloader',
      'system',
    ]);
  });
});

describe('jobs', () => {
  it('tell their progress and their end, and are remembered for a while', async () => {
    const since = newestMessageId();
    const job = await startJob({ kind: 'k', title: 'A job', roundId: null }, async ({ onProgress }) => {
      onProgress({ phase: 'half', doneBytes: 5, totalBytes: 10 });
      onProgress({ phase: 'end', doneBytes: 10, totalBytes: 10 });
    });
    await ended(job);
    const phases: string[] = [];
    subscribe(since, ({ message }) => message.type === 'job' && phases.push(`${message.job.phase} ${message.job.state}`))();
    expect(phases).toEqual(['start running', 'half running', 'end running', 'end done']);
    expect((await listJobs()).map((one) => one.title)).toContain('A job');
  });
  it('that fail keep their error as data', async () => {
    const job = await startJob({ kind: 'k', title: 'Bad', roundId: null }, async () => {
      throw new TypeError('surprise');
    });
    expect(await ended(job)).toMatchObject({ state: 'failed', error: { code: 'internal', message: 'surprise' } });
    expect(await codeOf(() => cancelJob(job.id))).toBe('not-found');
  });
});
