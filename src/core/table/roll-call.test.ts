import { describe, expect, it } from 'vitest';
import type { PackageBuild } from '../packages/package-report';
import { plainImage, UNKNOWN_BUILD } from '../packages/package-report';
import type { FileOnTable } from './roll-call';
import { setOnTable } from './roll-call';

/* Parts of one firmware set are told together. */

const file = (
  name: string,
  images: readonly string[],
  { role = 'part of a set', ...build }: Partial<PackageBuild> & { role?: FileOnTable['role'] } = {},
): FileOnTable => ({
  name,
  size: 10,
  role,
  says: '',
  report: {
    kind: 'tar-set',
    incremental: false,
    build: { ...UNKNOWN_BUILD, ...build },
    images: images.map((partition) => plainImage(partition, 1)),
    evidence: [],
    warnings: [],
    writes: [],
  },
});

describe('a set in several parts', () => {
  const system = file('s.tar', ['system', 'boot'], { buildId: 'MS8.1', devices: ['slate8'] });
  const loader = file('b.tar', ['bootloader']);
  it('is what its parts are together, whatever lies beside them', () => {
    const beside = [
      file('a.zip', ['vendor'], { role: 'package', buildId: 'MS8.2' }),
      { ...file('x.txt', []), role: 'checksums' as const, report: null },
    ];
    expect(setOnTable([beside[0]!, system, beside[1]!, loader])).toEqual({
      parts: [system, loader],
      builds: ['MS8.1'],
      devices: ['slate8'],
      partitions: ['system', 'boot', 'bootloader'],
    });
  });
  it('is none of one part', () => {
    expect(setOnTable([system])).toBeNull();
    expect(setOnTable([])).toBeNull();
  });
  it('is a mixture where its parts name two builds', () => {
    const modem = file('m.tar', ['radio', 'boot'], { buildId: 'MS8.2', devices: ['slate8'] });
    expect(setOnTable([system, loader, modem])).toMatchObject({
      builds: ['MS8.1', 'MS8.2'],
      devices: ['slate8'],
      partitions: ['system', 'boot', 'bootloader', 'radio'],
    });
    expect(setOnTable([system, system])?.builds).toEqual(['MS8.1']);
  });
});
