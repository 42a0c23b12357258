import { afterEach, describe, expect, it } from 'vitest';
import { updateHandset } from '@/server/repositories/handset-repository';
import { findRound, stepsOf } from '@/server/repositories/round-repository';
import { runStep, sendToStepMode } from '@/server/rounds/over-link';
import { roundView } from '@/server/rounds/round-view';
import { holdCable, isCableHeld, orderOver } from '@/server/services/cable-desk';
import { agreeToCable, cableSettings, needCable, switchCable } from '@/server/services/cable-service';
import { removeHandset } from '@/server/services/handset-life';
import { cancelJob } from '@/server/services/jobs';
import { slotCells } from '@/server/services/slot-service';
import { listEvents } from '@/server/repositories/event-repository';
import { sayAtStep } from '../fixtures/at-step';
import { ended } from '../fixtures/ended-job';
import { codeOf } from '../fixtures/expect-error';
import { begin, see, version, walk } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { laneWorld } from '../fixtures/lane-world';
import { sha256 } from '../fixtures/server-world';
import type { MemoryHandset } from '../fixtures/usb/memory-handset';
import type { Page } from '../fixtures/usb/page-of';
import { onCable, pageOf } from '../fixtures/usb/page-of';
import type { UsbFaults } from '../fixtures/usb/usb-stand-in';
import { UsbStandIn } from '../fixtures/usb/usb-stand-in';

/* A handset that is worked on by hand, and the steps of its bootloader over the cable that a page holds. */

let world: LaneWorld;
let page: Page | null = null;
afterEach(async () => {
  page?.close();
  page = null;
  await world.end();
});

interface OnCable {
  readonly round: string;
  readonly handset: MemoryHandset;
  readonly usb: UsbStandIn;
}

/** A round that was walked to a step; from there on its handset is by hand, and on a USB cable. */
async function toTheCable(
  faults: Partial<UsbFaults> = {},
  options: LaneOptions = {},
  lane = 'one-image-once',
): Promise<OnCable> {
  world = await laneWorld(options);
  const round = await begin(world, 'first root', { lane });
  await walk(world, round, { until: 'bootloader' });
  const { state } = await see();
  const partitions = new Map<string, Uint8Array>();
  for (const slot of ['a', 'b'] as const)
    for (const [name, bytes] of await world.imagesOf(state.builds[slot]))
      partitions.set(`${name}_${slot}`, bytes);
  const handset = await onCable(world, state, partitions);
  await updateHandset(world.handset, { link: 'hand', profile: null });
  await switchCable(true);
  await agreeToCable(world.handset);
  const usb = new UsbStandIn(handset, faults);
  page = await pageOf(world.handset, usb);
  return { round, handset, usb };
}
const run = async (round: string) => ended(await runStep(round, await version(round)));
const now = async (round: string) => {
  const view = await roundView(round);
  return { view, step: view.steps[view.current!]! };
};
/** To the write: read in the bootloader, checks confirmed. */
async function toTheWrite(faults: Partial<UsbFaults> = {}, options: LaneOptions = {}): Promise<OnCable> {
  const on = await toTheCable(faults, options);
  await run(on.round);
  await walk(world, on.round, { until: 'write-root' });
  return on;
}
const cell = async () =>
  (await slotCells(world.handset)).find((one) => one.partition === 'init_boot' && one.slot === 'a');

describe('a round by hand, its bootloader on the cable of a page', () => {
  it('reads, checks and writes over it, with the gates of the link, and the person says the rest', async () => {
    const { round, handset, usb } = await toTheWrite();
    const patched = (await now(round)).view.image!;
    await run(round);
    const lies = handset.partitions.get('init_boot_a')!;
    expect(sha256(lies.subarray(0, patched.sizeBytes))).toBe(patched.sha256);
    expect(handset.writes).toEqual(['init_boot_a']);
    const { step, view } = await now(round);
    expect(step.key).toBe('start');
    expect(view.cable).toMatchObject({ does: 'the restart', agreed: true });
    const write = (await stepsOf([round])).find(({ key }) => key === 'write-root')!;
    expect(write).toMatchObject({ state: 'done', actor: 'link' });
    expect(write.evidence.map(({ what }) => what).join('\n')).toMatch(
      /by a page of the browser[^]*init_boot_a/,
    );
    expect(await cell()).toMatchObject({
      predicted: { sha256: patched.sha256, reason: expect.stringContaining('cable') },
    });
    // the start is sent off, and ends with the person's word
    await sendToStepMode(round, await version(round));
    await expect.poll(() => handset.state.mode).not.toBe('bootloader');
    expect((await now(round)).step).toMatchObject({ key: 'start', state: 'waiting' });
    await sayAtStep(round, await version(round), 'it shows its start screen');
    expect((await now(round)).step.key).toBe('prove-root');
    expect(usb.commands.filter((one) => one.startsWith('flash:'))).toEqual(['flash:init_boot_a']);
  });
  it('is held back by what holds the link back, before a byte is sent', async () => {
    const { round, handset } = await toTheWrite();
    handset.inject({ active: 'b' });
    await run(round);
    expect((await now(round)).step).toMatchObject({ key: 'write-root', state: 'failed' });
    expect(handset.writes).toEqual([]);
    handset.inject({ active: 'a', locked: true });
    await run(round);
    expect((await now(round)).step.state).toBe('failed');
    expect(handset.writes).toEqual([]);
  });
  it('sends nothing to another handset on the same cable', async () => {
    const { round, handset } = await toTheWrite();
    Object.assign(handset.profile, { serial: 'OTHER' });
    await run(round);
    const { step } = await now(round);
    expect(step.state).toBe('failed');
    expect(step.evidence[0]!.what).toContain('serial');
    expect(handset.writes).toEqual([]);
    Object.assign(handset.profile, { serial: 'SERIAL42' });
  });
  it('starts an image from memory, and what it came up to is the person’s word', async () => {
    const { round, handset } = await toTheCable(
      {},
      { profile: { rootPartition: 'boot', startsOnce: true }, facts: { startsOnce: 'true' } },
      'start-once-make-lasting',
    );
    await run(round);
    await walk(world, round, { until: 'start-once' });
    const { step } = await now(round);
    expect(step.key).toBe('start-once');
    await run(round);
    expect(handset.state.mode).not.toBe('bootloader');
    expect(handset.writes).toEqual([]);
    const sent = (await now(round)).step;
    expect(sent).toMatchObject({ key: 'start-once', state: 'waiting' });
    expect(sent.evidence.some(({ what }) => what.includes('sent to be started from memory'))).toBe(true);
    expect(await listEvents({ kind: 'step-sent', roundId: round })).toHaveLength(1);
    await sayAtStep(round, await version(round), 'it runs');
    const done = (await stepsOf([round])).find(({ key }) => key === 'start-once')!;
    expect(done).toMatchObject({ state: 'done', actor: 'hand' });
    expect(done.evidence.some(({ what }) => what.includes('sent to be started from memory'))).toBe(true);
  });
});

describe('a write over the cable that is cut', () => {
  it.each<[string, (on: OnCable) => void]>([
    ['by the cable', ({ usb }) => usb.unplug()],
    ['by a page that is closed', () => page!.close()],
  ])('%s leaves the partition in doubt, said and booked; written again it is whole', async (_how, cut) => {
    const on = await toTheWrite();
    const { round, handset, usb } = on;
    const { sha256: wanted, sizeBytes } = (await now(round)).view.image!;
    const write = handset.write.bind(handset);
    handset.write = (what) => {
      setTimeout(() => cut(on), 5);
      return write(what);
    };
    await run(round);
    const { step } = await now(round);
    expect(step).toMatchObject({ key: 'write-root', state: 'failed' });
    expect(step.evidence.map(({ what }) => what).join()).toContain('init_boot_a');
    expect(await cell()).toMatchObject({ verdict: 'unknown', sha256: null });
    handset.write = write;
    page!.close();
    await expect.poll(() => handset.writes.length).toBe(1);
    usb.plug();
    page = await pageOf(world.handset, usb);
    await run(round);
    expect((await now(round)).step.key).toBe('start');
    expect(sha256(handset.partitions.get('init_boot_a')!.subarray(0, sizeBytes))).toBe(wanted);
    expect(await cell()).toMatchObject({ predicted: { sha256: wanted } });
  });
  it('before its command leaves nothing in doubt', async () => {
    const { round, handset } = await toTheWrite({ unplugAtByte: 4096 });
    const before = await cell();
    await run(round);
    expect((await now(round)).step.state).toBe('failed');
    expect(handset.writes).toEqual([]);
    expect(await cell()).toEqual(before);
  });
  it('between two pieces ends where the person stopped it', async () => {
    const { round, handset } = await toTheWrite({}, { profile: { maxDownloadBytes: 64 * 1024 } });
    const write = handset.write.bind(handset);
    const job = await runStep(round, await version(round));
    handset.write = async (what) => {
      handset.write = write;
      // pressed while the first piece is written
      cancelJob(job.id);
      await write(what);
    };
    await ended(job);
    expect((await now(round)).step).toMatchObject({ key: 'write-root', state: 'failed' });
    expect(handset.writes).toHaveLength(1);
    expect(await cell()).toMatchObject({ verdict: 'unknown', sha256: null });
    await run(round);
    expect((await now(round)).step.key).toBe('start');
  });
});

describe('who may hold a cable', () => {
  it('is one page, for a handset that its person agreed to, once it is switched on', async () => {
    const { usb } = await toTheCable();
    expect(isCableHeld(world.handset)).toBe(true);
    expect(await codeOf(() => pageOf(world.handset, usb))).toBe('conflict');
    page!.close();
    expect(isCableHeld(world.handset)).toBe(false);
    page = await pageOf(world.handset, usb);
    await switchCable(false);
    expect(isCableHeld(world.handset)).toBe(false);
    expect(await codeOf(() => needCable(world.handset))).toBe('refused');
    await switchCable(true);
    await needCable(world.handset);
    await updateHandset(world.handset, { link: 'stand-in', profile: 'lane' });
    expect(await codeOf(() => needCable(world.handset))).toBe('refused');
  });
  it('answers in time, or the line is lost', async () => {
    world = await laneWorld();
    const leave = holdCable(world.handset, 'asleep', () => undefined);
    const order = { serial: null, work: { do: 'variables' } } as const;
    expect(await codeOf(() => orderOver(world.handset, order, 20))).toBe('link-lost');
    leave();
    expect(await codeOf(() => orderOver(world.handset, order, 20))).toBe('link-lost');
  });
  it('is nobody where there is none: the step stays by hand', async () => {
    const { round } = await toTheCable();
    page!.close();
    expect(await codeOf(async () => runStep(round, await version(round)))).toBe('refused');
    expect((await findRound(round))!.state).toBe('open');
  });
  it('is asked again for each handset, and forgotten with it', async () => {
    world = await laneWorld();
    expect(await cableSettings(world.handset)).toEqual({ on: null, agreed: false });
    await switchCable(true);
    expect(await codeOf(() => needCable(world.handset))).toBe('refused');
    await agreeToCable(world.handset);
    expect((await cableSettings(world.handset)).agreed).toBe(true);
    await removeHandset(world.handset);
    expect((await cableSettings(world.handset)).agreed).toBe(false);
    expect(await codeOf(() => agreeToCable(world.handset))).toBe('not-found');
  });
});
