import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parsePlanInput } from '@/contracts/plan-input';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import { counted, mean, quantile } from '../beta';
import { lintPlan } from './lint';
import type { LanePlan } from './plan-round';
import { planRound } from './plan-round';
import { riskOf } from './slips';
import { stopHere } from './stop-here';
import { tries } from '../../../tests/fixtures/soak';

const NEXT = FINGERPRINT.replace('260905', '261005');
const context = (change: object = {}, state: object = {}) =>
  parsePlanInput({
    goal: 'monthly update',
    target: NEXT,
    handset: {
      rootPartition: 'init_boot',
      slotCount: 2,
      recoveryHome: 'vendor_boot',
      partitions: ['init_boot', 'boot', 'vendor_boot'],
      sdk: 36,
    },
    state: {
      locked: false,
      builds: { a: FINGERPRINT },
      images: { init_boot_a: { patched: true } },
      ...state,
    },
    kit: 'burrow 7.3',
    fullPackages: [FINGERPRINT, NEXT],
    ...change,
  });
const planOf = async (lane: string, change: object = {}, state: object = {}) => {
  const given = await context(change, state);
  return { given, plan: planRound(given).plans.find((one) => one.lane.id === lane) as LanePlan };
};

describe('rates', () => {
  it.each([
    [{ yes: 1, no: 1 }, 0.5, 0.5],
    [{ yes: 1, no: 1 }, 0.9, 0.9],
    [{ yes: 1, no: 11 }, 0.5, 1 - 0.5 ** (1 / 11)],
    [{ yes: 3, no: 1 }, 0.1, 0.1 ** (1 / 3)],
  ])('the %j quantile at %s', (beta, p, expected) => expect(quantile(beta, p)).toBeCloseTo(expected, 2));
  it('move towards what was counted', () => {
    expect(mean(counted({ yes: 1, no: 11 }, 0, 100))).toBeLessThan(0.01);
    expect(mean(counted({ yes: 1, no: 11 }, 50, 100))).toBeGreaterThan(0.4);
  });
  it('have quantiles in order', () => {
    const part = fc.double({ min: 0.5, max: 40, noNaN: true });
    fc.assert(
      fc.property(part, part, (yes, no) => {
        const [low, middle, high] = [0.1, 0.5, 0.9].map((p) => quantile({ yes, no }, p)) as [
          number,
          number,
          number,
        ];
        expect(low).toBeLessThanOrEqual(middle);
        expect(middle).toBeLessThanOrEqual(high);
      }),
      tries(50),
    );
  });
});

describe('slips', () => {
  it('an early restart in the update in place costs a way back to root', async () => {
    const { given, plan } = await planOf('update-in-place-other-slot');
    const { slips, minutes, between } = riskOf(given, plan);
    const early = slips.find((one) => one.slip === 'early restart')!;
    expect(early.minutes).toBeGreaterThan(1);
    expect(early.sentence).toBe('Then: one image, written once.');
    expect(minutes).toBeGreaterThan(between[0]);
    expect(minutes).toBeLessThan(between[1]);
  });
  it('a cable lost in a write is mended from where it stands', async () => {
    const { given, plan } = await planOf(
      'one-image-once',
      { goal: 'root again', target: FINGERPRINT, fullPackages: [FINGERPRINT] },
      { images: {} },
    );
    const lost = riskOf(given, plan).slips.find((one) => one.slip === 'cable lost')!;
    expect(lost.minutes).not.toBeNull();
    expect(lost.minutes).toBeLessThan(60);
    // what was left of the plan was to be done anyway: the slip costs the write once more
    const write = plan.steps.find(({ action }) => action === 'write-root')!;
    expect(lost.minutes).toBeCloseTo(write.minutes[0], 9);
    expect(plan.steps[lost.step - 1]).toBe(write);
    expect(riskOf(given, plan).slips.map((one) => one.slip)).toContain('wrong slot');
  });
  it('weigh as the person’s own log has them', async () => {
    const { given, plan } = await planOf('update-in-place-other-slot');
    const plain = riskOf(given, plan).minutes;
    expect(riskOf(given, plan, { 'early restart': { slips: 0, chances: 40 } }).minutes).toBeLessThan(plain);
    expect(riskOf(given, plan, { 'early restart': { slips: 6, chances: 10 } }).minutes).toBeGreaterThan(
      plain,
    );
  });
});

describe('the linter', () => {
  const said = (plan: LanePlan, given: Parameters<typeof lintPlan>[0]) =>
    lintPlan(given, plan).map(({ code }) => code);
  it('says from where on restarts are to be refused, and when the other slot goes', async () => {
    const { given, plan } = await planOf('update-in-place-other-slot');
    expect(said(plan, given)).toEqual(['restart-takes-update', 'other-slot-gone']);
  });
  it('says what a wipe takes along, and where two handsets look alike', async () => {
    const { given, plan } = await planOf(
      'one-image-once',
      { goal: 'first root', target: FINGERPRINT, limits: { wipeAllowed: true } },
      { locked: true, images: {} },
    );
    expect(said(plan, given)).toEqual(expect.arrayContaining(['erases', 'erases-trust', 'read-serial']));
  });
  it('names the step it speaks of', async () => {
    const { given, plan } = await planOf('whole-build-patched');
    for (const { step } of lintPlan(given, plan)) expect(plan.steps[step - 1]).toBeDefined();
  });
});

describe('stop here', () => {
  it('tells at every step what the handset is, and a way back where it does not start', async () => {
    const { given, plan } = await planOf('whole-build-then-root');
    const ends = stopHere(given, plan);
    expect(ends).toHaveLength(plan.steps.length);
    expect(
      ends
        .flatMap((one) => [one.asItStays, one.powerLost])
        .every((end) => end.starts || end.wayBack !== null),
    ).toBe(true);
    const written = ends[plan.steps.findIndex((step) => step.action === 'write-build')]!;
    expect(written.asItStays).toMatchObject({ starts: true, rootOnDisk: false, runningRoot: false });
    expect(written.powerLost).toEqual(written.asItStays);
  });
});
