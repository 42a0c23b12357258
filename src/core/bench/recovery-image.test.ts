import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import type { KeptImage, KeptRecovery } from './bench';
import {
  holdsRecovery,
  patchedWithRecoveryOf,
  rebuiltRecoveryOf,
  recoveriesForImage,
} from './recovery-image';

const NEXT = FINGERPRINT.replace('260905', '261005');
const image = (sha256: string, change: Partial<KeptImage> = {}): KeptImage => ({
  sha256,
  sizeBytes: 10,
  partition: 'boot',
  role: 'stock',
  fingerprint: FINGERPRINT,
  patchLevel: null,
  kit: null,
  stockSha256: null,
  recoverySha256: null,
  proof: null,
  judged: null,
  trust: null,
  report: {} as KeptImage['report'],
  addedAt: 1,
  ...change,
});
const rebuilt = (sha256: string, stockSha256: string, recoverySha256 = 'lifeboat') =>
  image(sha256, { role: 'recovery', stockSha256, recoverySha256, proof: [{ check: 'all', ok: true }] });
const patched = (sha256: string, stockSha256: string) =>
  image(sha256, { role: 'patched', stockSha256, proof: [{ check: 'all', ok: true }], kit: 'burrow 7.3' });
const hash = (found: KeptImage | null) => found?.sha256 ?? null;

describe('an image with a recovery in it', () => {
  it('is of the build whose stock image it was put into, and holds the recovery that is asked for', () => {
    const images = [
      image('s'),
      image('t', { fingerprint: NEXT }),
      rebuilt('r', 's'),
      rebuilt('q', 's', 'other'),
      // a recovery by its bytes, made elsewhere
      image('strange', { role: 'recovery', stockSha256: 's' }),
    ];
    const of = (build: string, recovery: string | null, home: string | null = 'boot') =>
      hash(rebuiltRecoveryOf({ images }, home, build, recovery));
    expect(of(FINGERPRINT, 'lifeboat')).toBe('r');
    expect(of(FINGERPRINT, 'other')).toBe('q');
    expect(of(FINGERPRINT, null)).toBe('r');
    expect(of(FINGERPRINT, 'third')).toBeNull();
    expect(of(NEXT, null)).toBeNull();
    expect(of(FINGERPRINT, null, 'vendor_boot')).toBeNull();
    expect(of(FINGERPRINT, null, null)).toBeNull();
  });
  it('carries root only in what was patched over it', () => {
    const images = [image('s'), rebuilt('r', 's'), patched('plain', 's'), patched('both', 'r')];
    expect(hash(patchedWithRecoveryOf({ images }, 'boot', FINGERPRINT, 'lifeboat'))).toBe('both');
    expect(hash(patchedWithRecoveryOf({ images }, 'boot', FINGERPRINT, 'other'))).toBeNull();
    const without = images.filter(({ sha256 }) => sha256 !== 'both');
    expect(patchedWithRecoveryOf({ images: without }, 'boot', FINGERPRINT, 'lifeboat')).toBeNull();
    expect(['r', 'both', 'plain', 's', null].map((one) => holdsRecovery({ images }, one))).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
  });
});

describe('recoveries for a stock image', () => {
  const recovery = (change: Partial<KeptRecovery> = {}): KeptRecovery => ({
    id: '1',
    name: 'Lifeboat',
    version: '3.8',
    channel: 'stable',
    devices: ['hill'],
    sdkFrom: null,
    sdkTo: null,
    opensUpTo: null,
    sha256: 'lifeboat',
    note: '',
    addedAt: 1,
    ...change,
  });
  const images = [image('s'), image('lifeboat', { partition: 'recovery', role: 'recovery' })];
  const count = (recoveries: readonly KeptRecovery[], of: Partial<KeptImage> = {}) =>
    recoveriesForImage({ images, recoveries: [...recoveries] }, image('s', of)).length;
  it('are those for its handset whose image lies in the vault', () => {
    expect(count([recovery()])).toBe(1);
    expect(count([recovery({ devices: ['ridge'] })])).toBe(0);
    expect(count([recovery({ sha256: null })])).toBe(0);
    expect(count([recovery({ sha256: 'gone' })])).toBe(0);
    expect(count([recovery()], { fingerprint: null })).toBe(0);
    expect(count([recovery()], { role: 'patched' })).toBe(0);
  });
});
