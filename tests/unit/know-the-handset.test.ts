import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { concatBytes } from '@/core/bytes/bytes';
import { readKit } from '@/core/kits/read-kit';
import { openReadBack } from '@/core/slots/read-back';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { listTrials } from '@/server/repositories/record-repository';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { applyFacts, chooseFact, knownFacts, typeFact } from '@/server/services/fact-service';
import { keepPackage } from '@/server/services/firmware-service';
import { handsetDetail } from '@/server/services/handset-service';
import { kitViews, storeImage, storeKit } from '@/server/services/image-service';
import type { Bench } from '@/core/bench/bench';
import { recoveryShelf } from '@/server/services/shelf-views';
import { imageDetail } from '@/server/services/image-view';
import { passportResponse } from '@/server/services/passport-service';
import { imagesOnHandsets, keepReadBack, recogniseReadBack } from '@/server/services/read-back-service';
import {
  keepSecret,
  noteBackup,
  noteClock,
  noteDependency,
  noteEdge,
  noteTrial,
  shelveRecovery,
} from '@/server/services/record-service';
import { tellRoot } from '@/server/services/root-history';
import { roundContext } from '@/server/rounds/round-context';
import { gatesOf } from '@/server/rounds/round-gates';
import { setSlotByHand, slotCells } from '@/server/services/slot-service';
import { openBareImage } from '@/core/packages/bare-image';
import { codeOf } from '../fixtures/expect-error';
import { FINGERPRINT, KIT_STEPS, kitZip, seeded, stockImage } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256, VARIABLES } from '../fixtures/server-world';
import { rawRound, rawStep } from '../fixtures/raw-round';
import { OTHER_MONTH } from '../fixtures/stand-in-world';
import { eventsOf } from '@/server/repositories/event-repository';
import { readProved } from '@/server/vault/vault';

let server: Awaited<ReturnType<typeof freshServer>>;
let handset: string;

/** The checks before root's image is written, in a round that has this one step. */
async function rootGates(handsetId: string) {
  const { id } = await rawRound(handsetId, {}, [rawStep('write-root')]);
  const context = await roundContext(id);
  return gatesOf(context, context.steps[0]!);
}
beforeEach(async () => {
  server = await freshServer();
  handset = await addHandset('North', DUMP);
});
afterEach(() => server.end());

const keepStock = async (bytes: Uint8Array, name = 'hill.zip') => {
  await storeImage(sha256(bytes), pieces(bytes), {
    from: 'package',
    package: name,
    partition: 'init_boot',
    verified: 'yes',
  });
  return sha256(bytes);
};
async function keepPatched(stock: Uint8Array): Promise<string> {
  const kitBytes = await kitZip();
  await storeKit(sha256(kitBytes), pieces(kitBytes), 'burrow.kit.zip');
  const { kit } = await readKit(memorySource(kitBytes), nodePorts);
  const patched = await patchImage(memorySource(stock), kit, nodePorts);
  await storeImage(patched.sha256, pieces(patched.bytes), {
    from: 'patch',
    stock: sha256(stock),
    kit: sha256(kitBytes),
  });
  return patched.sha256;
}
/** As the browser describes files that were read out. */
async function describeFiles(...files: (readonly [string, Uint8Array])[]) {
  const opened = await openReadBack(
    files.map(([name, bytes]) => memorySource(bytes, name)),
    await imagesOnHandsets(),
    nodePorts,
  );
  return opened.map(({ file: { named, ...file } }) => ({
    ...file,
    partition: named?.partition ?? file.holds,
    slot: named?.slot ?? null,
  }));
}
const contradictions = async () => (await knownFacts(handset)).contradictions.map(({ key }) => key);

describe('facts', () => {
  it('keep who said them, how and when', async () => {
    await applyFacts(handset, VARIABLES, 'link');
    const { facts } = await handsetDetail(handset);
    const fact = (key: string) => facts.find((one) => one.key === key);
    expect(fact('fingerprint')).toMatchObject({
      value: FINGERPRINT,
      witness: 'system',
      source: 'pasted',
      said: 'the running system, pasted',
    });
    expect(fact('unlocked')).toMatchObject({ witness: 'bootloader', source: 'link', sources: 2 });
    expect(fact('serial')).toBeUndefined();
  });

  it('a claim of the rooted system against the bootloader stops the round and can not be chosen away', async () => {
    await tellRoot(handset, null, 'proven', 'test');
    await applyFacts(handset, VARIABLES, 'pasted');
    await applyFacts(
      handset,
      DUMP.replace('[ro.boot.flash.locked]: [0]', '[ro.boot.flash.locked]: [1]'),
      'pasted',
    );
    expect(await contradictions()).toEqual(['unlocked']);
    expect((await benchRows())[0]!.next).toMatchObject({ goes: 'contradiction', urgent: true });
    expect((await knownFacts(handset)).typed.unlocked).toBe(true);
    expect(await codeOf(() => chooseFact(handset, 'unlocked', 'false', 'I say so'))).toBe('refused');
    const gate = (await rootGates(handset)).find((check) => check.id === 'sources');
    expect(gate).toMatchObject({ verdict: 'fails', overridable: false });
    await applyFacts(handset, DUMP, 'pasted');
    expect(await contradictions()).toEqual([]);
  });

  it('between equals the person chooses, with a reason', async () => {
    await applyFacts(handset, VARIABLES.replace('slot-count:2', 'slot-count:1'), 'pasted');
    expect(await contradictions()).toEqual(['slotCount']);
    expect(await codeOf(() => chooseFact(handset, 'slotCount', '7', 'no'))).toBe('bad-field');
    await chooseFact(handset, 'slotCount', '2', 'it has two: both start');
    expect(await contradictions()).toEqual([]);
    expect((await knownFacts(handset)).typed.slotCount).toBe(2);
    expect(await codeOf(() => chooseFact(handset, 'model', 'x', 'no'))).toBe('conflict');
  });

  it('only what no dump says can be typed', async () => {
    await typeFact(handset, 'writeCounter', '3');
    expect((await handsetDetail(handset)).facts.find((fact) => fact.key === 'writeCounter')).toMatchObject({
      said: 'typed by you',
      group: 'Record',
    });
    expect(await codeOf(() => typeFact(handset, 'fingerprint', 'x'))).toBe('bad-field');
    expect(await codeOf(() => typeFact(handset, '__proto__', 'x'))).toBe('bad-field');
  });

  it('what could not be read is kept, apart', async () => {
    await applyFacts(handset, `${DUMP}something nobody knows\n`, 'pasted');
    expect((await handsetDetail(handset)).unread).toBe(1);
  });
});

describe('the shelf of a handset', () => {
  it('holds its own images, and counts the others', async () => {
    await keepStock(await stockImage());
    await keepStock(await stockImage({ fingerprint: FINGERPRINT.replaceAll('hill', 'dale') }));
    const { shelf, otherImages } = await handsetDetail(handset);
    expect([shelf.length, otherImages]).toEqual([1, 1]);
    // what names no build is nobody's, until it lies on one
    const silent = await stockImage({ footer: false });
    await keepStock(silent);
    expect(await handsetDetail(handset)).toMatchObject({ shelf: { length: 1 }, otherImages: 2 });
    await setSlotByHand(handset, 'b', 'init_boot', sha256(silent), 'read elsewhere');
    expect(await handsetDetail(handset)).toMatchObject({ shelf: { length: 2 }, otherImages: 1 });
    // nor is it that of a handset that says nothing of what it is
    const quiet = await addHandset('Quiet', '[ro.boot.slot_suffix]: [_a]\n');
    expect(await handsetDetail(quiet)).toMatchObject({ shelf: { length: 0 }, otherImages: 3 });
  });
  it('keeps of a kit what it does by itself, and whether it changes the kernel', async () => {
    const kept = async (change: object) => {
      const bytes = await kitZip(change);
      const { restsAfter, changesKernel } = await storeKit(sha256(bytes), pieces(bytes), 'x.kit.zip');
      return [restsAfter, changesKernel];
    };
    const rests = (does: string) => ({ formatVersion: 2, afterFailedStarts: { starts: 2, does } });
    expect(await kept({})).toEqual([null, false]);
    expect(await kept(rests('rest-modules'))).toEqual([2, false]);
    expect(await kept(rests('nothing'))).toEqual([null, false]);
    const bytes = (section: string) => ({ do: 'replaceBytes', in: section, find: '00', with: '01' });
    expect(await kept({ formatVersion: 2, steps: [bytes('dtb')] })).toEqual([null, false]);
    expect(await kept({ formatVersion: 2, steps: [bytes('kernel')] })).toEqual([null, true]);
    expect(await kept({ formatVersion: 2, steps: [{ do: 'kernel', from: 'files/su' }] })).toEqual([
      null,
      true,
    ]);
  });
  it('keeps with an image what was chosen of its kit, proves it with that, and offers it for the next one', async () => {
    const change = {
      formatVersion: 2,
      options: {
        home: { title: 't', explain: 'e', kind: 'choice', choices: ['data', 'metadata'], default: 'data' },
      },
      steps: [...KIT_STEPS, { do: 'write', path: '.burrow/home', mode: '0640', text: '{{option.home}}' }],
    };
    const kitBytes = await kitZip(change);
    await storeKit(sha256(kitBytes), pieces(kitBytes), 'burrow.kit.zip');
    expect(await kitViews()).toMatchObject([{ options: change.options, chosen: {} }]);
    const stock = await stockImage();
    await keepStock(stock);
    const { kit } = await readKit(memorySource(kitBytes), nodePorts);
    const chosen = { home: 'metadata' };
    const made = await patchImage(memorySource(stock), kit, nodePorts, { chosen });
    const keep = (options: object) =>
      storeImage(made.sha256, pieces(made.bytes), {
        from: 'patch',
        stock: sha256(stock),
        kit: sha256(kitBytes),
        options: JSON.stringify(options),
      });
    // with another choice it is not what that choice makes
    expect(await codeOf(() => keep({ home: 'data' }))).toBe('bad-hash');
    expect(await codeOf(() => keep({ attic: true }))).toBe('usage');
    await keep(chosen);
    const { origins } = await imageDetail(made.sha256);
    expect(origins[0]!.sentence).toContain('home=metadata');
    expect((await kitViews())[0]!.chosen).toEqual(chosen);
    // a version without that choice has nothing of it to offer
    const newer = await kitZip({ ...change, version: '7.4', options: {}, steps: KIT_STEPS });
    await storeKit(sha256(newer), pieces(newer), 'burrow.kit.zip');
    expect((await kitViews()).map(({ version, chosen: last }) => [version, last]).sort()).toEqual([
      ['7.3', chosen],
      ['7.4', {}],
    ]);
  });
  it('tells the platform levels of a recovery, from either end', () => {
    const levels = (sdkFrom: number | null, sdkTo: number | null) =>
      recoveryShelf(
        { recoveries: [{ id: 'r', sdkFrom, sdkTo }], trials: [] } as unknown as Bench,
        new Map(),
      )[0]!.supports;
    expect(levels(null, 36)).toContain('36');
    expect(levels(28, null)).toContain('28');
    expect(levels(28, 36)).toMatch(/28.*36/);
    expect(levels(null, null)).not.toMatch(/\d/);
  });
});

describe('the image of the build before', () => {
  it('is the newest older stock image of the same partition and variant, and no patched one', async () => {
    const of = (month: string) =>
      stockImage({
        fingerprint: FINGERPRINT.replace('260905', `26${month}05`),
        patchLevel: `2026-${month}-05`,
      });
    const [july, august, september] = [await of('07'), await of('08'), await of('09')];
    for (const image of [july, august, september]) await keepStock(image);
    const patched = await keepPatched(august);
    expect((await imageDetail(sha256(september))).before?.sha256).toBe(sha256(august));
    // one that is patched, or names no build, or no month, has none before it
    expect((await imageDetail(patched)).before).toBeNull();
    const silent = await stockImage({ footer: false, fingerprint: 'none' });
    await keepStock(silent);
    expect((await imageDetail(sha256(silent))).before).toBeNull();
    expect((await imageDetail(sha256(august))).before?.sha256).toBe(sha256(july));
    expect((await imageDetail(sha256(july))).before).toBeNull();
  });
});

describe('read-back', () => {
  it('turns the map from predicted to read, proves a write, and gives next month’s stock image without a download', async () => {
    const [stock, next] = [await stockImage(), await stockImage({ fingerprint: OTHER_MONTH })];
    const stockSha = await keepStock(stock);
    const patchedSha = await keepPatched(stock);
    await setSlotByHand(handset, 'a', 'init_boot', patchedSha, 'written with another tool');
    const patched = await (await import('@/server/vault/vault')).openInVault('images', patchedSha);
    const bytes = await patched.read(0, patched.size);
    await patched.close();

    const found = await recogniseReadBack(
      handset,
      await describeFiles(['init_boot_a.img', bytes], ['init_boot_b.img', next]),
    );
    expect(found[0]).toMatchObject({ role: 'patched', inVault: true, slot: 'a' });
    expect(found[0]!.sentence).toBe(
      'Patched by burrow 7.3, for HC1.260905.007; it is in the vault. As expected there.',
    );
    expect(found[1]).toMatchObject({ inVault: false, build: 'HC1.261005.007' });
    expect(found[1]!.sentence).toMatch(/spares a download/);

    await storeImage(sha256(next), pieces(next), {
      from: 'read-back',
      partition: 'init_boot',
      name: 'init_boot_b.img',
    });
    expect(await imageDetail(sha256(next))).toMatchObject({ role: 'stock', lineage: { notes: [] } });
    const again = await recogniseReadBack(handset, await describeFiles(['init_boot_b.img', next]));
    expect(again[0]).toMatchObject({ role: 'stock', inVault: true });
    expect(again[0]!.sentence).not.toMatch(/spares a download/);
    await keepReadBack(
      handset,
      [
        { partition: 'init_boot', slot: 'a', sha256: patchedSha },
        { partition: 'init_boot', slot: 'b', sha256: sha256(next) },
      ],
      'file',
    );
    const { slots, wayBack } = await handsetDetail(handset);
    expect(slots.map(({ slot, verdict, role }) => [slot, verdict, role])).toEqual([
      ['a', 'read', 'patched'],
      ['b', 'read', 'stock'],
    ]);
    expect(slots[0]!.history.map(({ certainty }) => certainty)).toEqual(['read', 'predicted']);
    expect(wayBack.files.map((file) => file.sha256)).toEqual([stockSha]);
  });

  it('holds the part of a partition that an image fills', async () => {
    const stock = await stockImage();
    await keepStock(stock);
    const patchedSha = await keepPatched(stock);
    await setSlotByHand(handset, 'a', 'init_boot', patchedSha, 'written');
    const bytes = await readProved('images', patchedSha);
    const read = concatBytes([bytes, seeded(3, 4096)]);
    const [found] = await recogniseReadBack(handset, await describeFiles(['init_boot_a.img', read]));
    expect(found).toMatchObject({
      sha256: patchedSha,
      sizeBytes: bytes.length,
      inVault: true,
      role: 'patched',
    });
    // one byte of the image itself is another: then it is that partition, and nobody's image
    read[bytes.length - 1]! ^= 1;
    const [other] = await recogniseReadBack(handset, await describeFiles(['init_boot_a.img', read]));
    expect(other).toMatchObject({ sha256: sha256(read), sizeBytes: read.length, inVault: false, role: null });
  });

  it('says when what lies there is not what was written', async () => {
    const stock = await stockImage();
    await keepStock(stock);
    const patchedSha = await keepPatched(stock);
    await setSlotByHand(handset, 'a', 'init_boot', patchedSha, 'written');
    expect(
      (await recogniseReadBack(handset, await describeFiles(['init_boot_a.img', stock])))[0]!.sentence,
    ).toMatch(/Not what was expected/);
    await keepReadBack(handset, [{ partition: 'init_boot', slot: 'a', sha256: sha256(stock) }], 'file');
    expect((await slotCells(handset))[0]).toMatchObject({ verdict: 'differs' });
    expect((await handsetDetail(handset)).wayBack.says.code).toBe('steps');
    // read once more it is what was read before
    await keepReadBack(handset, [{ partition: 'init_boot', slot: 'a', sha256: sha256(stock) }], 'file');
    const differing = async () =>
      (await eventsOf('read-back' as never)).map(({ data }) => (data as { differing: number }).differing);
    expect((await differing()).sort()).toEqual([0, 1]);
    await setSlotByHand(handset, 'b', 'init_boot', sha256(stock), 'written');
    await keepReadBack(handset, [{ partition: 'init_boot', slot: 'b', sha256: sha256(stock) }], 'file');
    expect((await differing()).sort()).toEqual([0, 0, 1]);
  });

  it('an image of the running slot is evidence against the system’s own claim', async () => {
    await tellRoot(handset, null, 'proven', 'test');
    await applyFacts(handset, DUMP.replaceAll('HC1.260905.007/9001', 'HC1.261005.001/9100'), 'pasted');
    const stock = await stockImage();
    await keepStock(stock);
    await keepReadBack(handset, [{ partition: 'init_boot', slot: 'a', sha256: sha256(stock) }], 'file');
    const known = await knownFacts(handset);
    expect(known.contradictions.map(({ key }) => key)).toContain('fingerprint');
    expect(known.typed.fingerprint).toBe(FINGERPRINT);
  });

  it('a package that states the hash is named', async () => {
    const stock = await stockImage();
    const { report } = await openBareImage(memorySource(stock, 'init_boot.img'), nodePorts);
    const images = report.images.map((image) => ({ ...image, sha256: sha256(stock) }));
    await keepPackage({
      fileName: 'hill.zip',
      sizeBytes: 10,
      report: { ...report, images },
      readBy: 'server',
    });
    expect(
      (await recogniseReadBack(handset, await describeFiles(['init_boot_a.img', stock])))[0],
    ).toMatchObject({
      packages: ['hill.zip'],
      inVault: false,
    });
  });
});

describe('what the dossier says', () => {
  it('by evidence where root sits, and stops where evidence disagrees', async () => {
    await storeImage(
      sha256(await stockImage({ partition: 'boot' })),
      pieces(await stockImage({ partition: 'boot' })),
      {
        from: 'package',
        package: 'hill.zip',
        partition: 'boot',
        verified: 'yes',
      },
    );
    const { rootPartition } = await handsetDetail(handset);
    expect(rootPartition).toMatchObject({ partition: 'boot', sure: true, agree: false });
    const gate = (await rootGates(handset)).find((check) => check.id === 'root-sources');
    expect(gate).toMatchObject({ verdict: 'unknown', overridable: true });
  });

  it('holds packages and images of the same code name against it', async () => {
    const lookAlike = FINGERPRINT.replace('hill_eu', 'hill_am');
    await keepStock(await stockImage({ fingerprint: lookAlike }));
    await keepStock(await stockImage());
    const { shelf } = await handsetDetail(handset);
    expect(
      shelf.map(({ fit, guarded, lineage }) => [fit.verdict, guarded, lineage.notes.length]).sort(),
    ).toEqual([
      ['exact', true, 0],
      ['other variant', false, 1],
    ]);
  });

  it('feasibility, records and readiness follow what is noted', async () => {
    await noteBackup({ handsetId: handset, what: 'files', place: 'on the handset', note: '', parts: null });
    await noteDependency({
      handsetId: handset,
      name: 'Hut payments',
      effect: 'stops',
      needed: 'no',
      note: '',
    });
    await noteDependency({
      handsetId: handset,
      name: 'Hut payments',
      effect: 'stops',
      needed: 'yes',
      note: '',
    });
    await noteEdge(handset, {
      fromBuild: 'HC1.260905.007',
      toBuild: 'HC1.260805.001',
      allowed: 'no',
      bootloader: null,
      note: '',
    });
    expect(
      await codeOf(() => noteClock({ handsetId: handset, kind: 'unlock switch', endsAt: 1, note: '' })),
    ).toBe('bad-field');
    await noteClock({ handsetId: handset, kind: 'unlock switch', endsAt: Date.now() + 9e9, note: '' });
    await shelveRecovery({
      name: 'Lifeboat',
      version: '3.8',
      channel: 'stable',
      devices: ['hill'],
      sdkFrom: 30,
      sdkTo: 36,
      sha256: null,
      note: '',
    });
    const detail = await handsetDetail(handset);
    expect(detail.records).toMatchObject({
      backups: [{ place: 'on the handset' }],
      dependencies: [{ needed: true }],
      edges: [{ allowed: false }],
      clocks: [{ kind: 'unlock switch' }],
    });
    // a backup that the same wipe erases does not count
    expect(detail.feasibility.questions.find(({ id }) => id === 'backup')).toMatchObject({
      answer: 'unknown',
    });
    expect(detail.feasibility.questions.find(({ id }) => id === 'apps')).toMatchObject({ answer: 'no' });
    expect(detail.feasibility.questions.find(({ id }) => id === 'recovery')).toMatchObject({ answer: 'yes' });
    expect(detail.recoveries[0]).toMatchObject({ name: 'Lifeboat', supports: 'platform levels 30 to 36' });
  });

  it('trials belong to something on a shelf', async () => {
    await keepPatched(
      await (async () => {
        const stock = await stockImage();
        await keepStock(stock);
        return stock;
      })(),
    );
    await noteTrial({
      shelf: 'kit',
      item: 'burrow 7.3',
      fingerprint: FINGERPRINT,
      handsetId: handset,
      outcome: 'worked',
      note: '',
    });
    expect(
      await codeOf(() =>
        noteTrial({
          shelf: 'kit',
          item: 'nothing',
          fingerprint: FINGERPRINT,
          handsetId: null,
          outcome: 'looped',
          note: '',
        }),
      ),
    ).toBe('not-found');
    expect(await listTrials()).toHaveLength(1);
    expect((await handsetDetail(handset)).kits[0]!.trials[0]).toMatchObject({
      build: 'HC1.260905.007',
      handset: 'North',
      outcome: 'worked',
    });
  });

  it('the passport that is made to be shared holds nothing private', async () => {
    await keepSecret(handset, 'code', 'UNLOCK\nCODE 99');
    await noteBackup({ handsetId: handset, what: 'files', place: 'off the handset', note: '', parts: null });
    await typeFact(handset, 'fuse', 'told the shop SERIAL42 and UNLOCKCODE99');
    const text = await (await passportResponse(handset)).text();
    expect(text).toContain('# North');
    expect(text).toContain(FINGERPRINT);
    expect(text).not.toMatch(/SERIAL42|UNLOCKCODE99/);
    const stock = await stockImage();
    await keepStock(stock);
    await setSlotByHand(handset, 'a', 'init_boot', sha256(stock), 'written');
    const withSlot = await (await passportResponse(handset)).text();
    expect(withSlot).toContain(sha256(stock));
    expect(withSlot).not.toContain('its own stock image');
    const { records } = await handsetDetail(handset);
    expect(JSON.stringify(records)).not.toMatch(/SERIAL42|UNLOCKCODE99/);
    expect(records.secrets).toEqual([
      { name: 'serial', ending: 'AL42' },
      { name: 'code', ending: '' },
    ]);
  });
});
