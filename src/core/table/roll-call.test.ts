import { describe, expect, it } from 'vitest';
import { tarBytes } from '../../../tests/fixtures/tars';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { openPackage } from '../packages/open-package';
import type { PackageBuild } from '../packages/package-report';
import { plainImage, UNKNOWN_BUILD } from '../packages/package-report';
import type { FileOnTable } from './roll-call';
import { roleOfOpened, setOnTable } from './roll-call';

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
  it('is a mixture where they are called so, though no image says it', async () => {
    const called = async (name: string) => {
      const source = memorySource(tarBytes([{ name: 'modem.bin', bytes: new Uint8Array(9) }]), name);
      return roleOfOpened(source, (await openPackage(source, nodePorts)).report, nodePorts);
    };
    const [one, other] = [await called('CP_MS81_a.tar'), await called('BL_MS82_a.tar')];
    expect(one).toMatchObject({ role: 'part of a set', report: { set: { parts: [{ role: 'modem' }] } } });
    expect(setOnTable([one, other])?.builds).toEqual(['MS81', 'MS82']);
    expect(setOnTable([one, await called('BL_MS81_a.tar')])?.builds).toEqual([]);
  });
});
