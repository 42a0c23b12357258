import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import { entry, seeded, stockEntries, stockImage } from '../../../tests/fixtures/images';
import { tarBytes } from '../../../tests/fixtures/tars';
import { nodePorts } from '../../platform/node/node-ports';
import type { ByteSource } from '../bytes/byte-source';
import { memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { memorySink } from '../bytes/image-sink';
import { openPackageFiles } from './open-package';
import { repackTarSet } from './repack-tar-set';

interface Kept {
  readonly sinkFor: Parameters<typeof repackTarSet>[2];
  readonly files: Map<string, () => ByteSource>;
}
function keep(): Kept {
  const files = new Map<string, () => ByteSource>();
  return {
    files,
    sinkFor(name) {
      const parts: Uint8Array[] = [];
      files.set(name, () => memorySource(concatBytes(parts), name));
      return {
        write: async (bytes) => void parts.push(bytes.slice()),
        readBack: async () => memorySource(concatBytes(parts), name),
      };
    },
  };
}

async function set(): Promise<{ sources: ByteSource[]; stock: Uint8Array }> {
  const stock = await stockImage();
  const sys = tarBytes(
    [
      { name: 'dtbo.img', bytes: seeded(1, 5000) },
      { name: 'init_boot.img.lz4', bytes: await nodePorts.codecs.encode('lz4-frame', stock) },
      { name: 'last.bin', bytes: seeded(2, 300) },
    ],
    'SYS_T9_user.tar',
  );
  return {
    stock,
    sources: [
      memorySource(sys, 'SYS_T9_user.tar.md5'),
      memorySource(tarBytes([{ name: 'modem.bin', bytes: seeded(3, 700) }]), 'RADIO_T9.tar'),
    ],
  };
}
const other = () => stockImage({ entries: [...stockEntries(), entry('added', 'x')] });
const repack = (
  sources: readonly ByteSource[],
  image: Uint8Array,
  kept = keep(),
  member = 'init_boot.img.lz4',
) => repackTarSet(sources, new Map([[member, memorySource(image, 'new.img')]]), kept.sinkFor, nodePorts);

describe('tar sets written again', () => {
  it('hold the new image, packed alike, and everything else as it was', async () => {
    const { sources } = await set();
    const image = await other();
    const kept = keep();
    const result = await repack(sources, image, kept);
    expect(result.archives).toMatchObject([
      { name: 'SYS_T9_user.tar.md5', replaced: ['init_boot.img.lz4'] },
      { name: 'RADIO_T9.tar', replaced: [], md5: null },
    ]);
    const pack = await openPackageFiles(
      [...kept.files.values()].map((file) => file()),
      nodePorts,
    );
    const sink = memorySink('init_boot');
    expect(await pack.take('init_boot', sink)).toMatchObject({ verified: true });
    expect(sink.bytes).toEqual(image);
    const dtbo = memorySink('dtbo');
    await pack.take('dtbo', dtbo);
    expect(dtbo.bytes).toEqual(seeded(1, 5000));
    const radio = kept.files.get('RADIO_T9.tar')!();
    expect(await radio.read(0, radio.size)).toEqual(await sources[1]!.read(0, sources[1]!.size));
  });

  it('with the same image put in give the very same members', async () => {
    const { sources, stock } = await set();
    const kept = keep();
    await repack(sources, stock, kept);
    const [before, after] = [sources[0]!, kept.files.get('SYS_T9_user.tar.md5')!()];
    expect(await after.read(0, after.size)).toEqual(await before.read(0, before.size));
  });

  it('refuse parts of different builds, images of another partition or build, and members that are not there', async () => {
    const { sources, stock } = await set();
    const strange = memorySource(tarBytes([{ name: 'modem.bin', bytes: seeded(3, 700) }]), 'RADIO_T8.tar');
    expect(await codeOf(() => repack([sources[0]!, strange], stock))).toBe('refused');
    expect(await codeOf(async () => repack(sources, await stockImage({ partition: 'boot' })))).toBe(
      'refused',
    );
    const fingerprint = 'club/hill_eu/hill:16/HC1.261005.001/9002:user/release-keys';
    expect(await codeOf(async () => repack(sources, await stockImage({ fingerprint })))).toBe('refused');
    expect(await codeOf(() => repack(sources, stock, keep(), 'boot.img'))).toBe('not-found');
  });

  it('refuse a stock archive that is damaged', async () => {
    const { sources, stock } = await set();
    const bytes = await sources[0]!.read(0, sources[0]!.size);
    bytes[600]! ^= 1;
    expect(await codeOf(() => repack([memorySource(bytes, 'SYS_T9_user.tar.md5')], stock))).toBe('bad-hash');
  });

  it('are proved member by member: one that was left and came out otherwise fails too', async () => {
    const [stock, left] = [await stockImage(), seeded(3, 700)];
    const sources = [
      memorySource(
        tarBytes([
          { name: 'init_boot.img', bytes: stock },
          { name: 'modem.bin', bytes: left },
        ]),
        'ALL.tar',
      ),
    ];
    const images = new Map([['init_boot.img', memorySource(await other(), 'new.img')]]);
    const kept = keep();
    // one byte of the member turned round on its way to the disk
    const rotten = (name: string) => {
      const sink = kept.sinkFor(name);
      return {
        ...sink,
        async readBack() {
          const written = await sink.readBack();
          const bytes = Buffer.from(await written.read(0, written.size));
          bytes[bytes.indexOf(Buffer.from(left))]! ^= 1;
          return memorySource(new Uint8Array(bytes), name);
        },
      };
    };
    const error = await errorOf(() => repackTarSet(sources, images, rotten, nodePorts));
    expect([error.code, error.message]).toEqual(['bad-hash', expect.stringContaining('modem.bin')]);
    const { archives } = await repackTarSet(sources, images, keep().sinkFor, nodePorts);
    expect(archives[0]).toMatchObject({ replaced: ['init_boot.img'], kept: 1 });
  });
  it('name the part with user data', async () => {
    const stock = await stockImage();
    const tar = tarBytes([
      { name: 'init_boot.img', bytes: stock },
      { name: 'userdata.img', bytes: seeded(1, 100) },
    ]);
    expect(
      (await repack([memorySource(tar, 'A_T9.tar')], await other(), keep(), 'init_boot.img')).userData,
    ).toEqual(['A_T9.tar/userdata.img']);
  });
});
