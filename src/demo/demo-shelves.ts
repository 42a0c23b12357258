import { SET_PARTS } from '@/core/backups/backup-set';
import {
  insertBackup,
  insertClock,
  insertEdge,
  insertRecovery,
  insertTrial,
  setDependency,
} from '@/server/repositories/record-repository';
import { at, BUILDS, fingerprintOf, HANDSETS } from './world';

/*
 * The shelves of the demo world: recoveries, how kits and recoveries did, and what the club noted of its
 * handsets.
 */

const KIT_ITEM = 'burrow 7.3';

async function recordRecoveries(lifeboat: string): Promise<void> {
  const [, ridge, barn] = HANDSETS;
  const slate = await insertRecovery({
    name: 'Lifeboat',
    version: '3.8',
    channel: 'stable',
    devices: ['slate8'],
    sdkFrom: 29,
    sdkTo: 34,
    opensUpTo: 34,
    sha256: lifeboat,
    note: 'made for the single-slot Slate 8',
    addedAt: at('2026-04-03T18:00:00Z'),
  });
  const petrel = await insertRecovery({
    name: 'Lifeboat',
    version: '4.0-b2',
    channel: 'preview',
    devices: ['petrel1', 'petrel2'],
    sdkFrom: 35,
    sdkTo: 36,
    opensUpTo: null,
    sha256: null,
    note: 'opens encrypted storage up to level 36',
    addedAt: at('2026-08-20T18:00:00Z'),
  });
  const trial = (
    item: string,
    handset: (typeof HANDSETS)[number] | undefined,
    outcome: 'worked' | 'looped' | 'misbehaved',
    note: string,
    when: string,
  ) =>
    insertTrial({
      shelf: 'recovery',
      item,
      fingerprint: fingerprintOf(handset!.installed, handset!.brand),
      handsetId: handset!.id,
      roundId: null,
      outcome,
      note,
      at: at(when),
    });
  await trial(slate, barn, 'worked', 'opens, reads the storage', '2026-04-04T10:40:00Z');
  await trial(petrel, ridge, 'misbehaved', 'opens, asks for a password nobody set', '2026-10-09T18:00:00Z');
}

async function recordKitTrials(): Promise<void> {
  const [north, ridge] = HANDSETS;
  const trials = [
    [north!, BUILDS.northGate.at(-3)!, '2026-09-12T10:40:00Z', 'first root'],
    [north!, BUILDS.northGate.at(-2)!, '2026-10-08T09:32:00Z', 'root again'],
    [ridge!, BUILDS.ridge.at(-2)!, '2026-10-09T17:20:00Z', 'root again'],
  ] as const;
  for (const [handset, build, when, note] of trials) {
    await insertTrial({
      shelf: 'kit',
      item: KIT_ITEM,
      fingerprint: fingerprintOf(build, handset.brand),
      handsetId: handset.id,
      roundId: null,
      outcome: 'worked',
      note,
      at: at(when),
    });
  }
}

async function recordNotes(): Promise<void> {
  const [north, ridge, barn, spare] = HANDSETS.map((handset) => handset.id) as [
    string,
    string,
    string,
    string,
  ];
  const day = (when: string) => at(`${when}T19:00:00Z`);
  await insertBackup({
    handsetId: north,
    what: 'files',
    place: 'off the handset',
    note: 'counter logs and photos, on the club’s disk',
    parts: SET_PARTS.files,
    at: day('2026-11-05'),
  });
  await insertBackup({
    handsetId: ridge,
    what: 'files',
    place: 'off the handset',
    note: 'camera folder',
    parts: ['photos'],
    at: day('2026-09-30'),
  });
  await insertBackup({
    handsetId: barn,
    what: 'image-level',
    place: 'on the handset',
    note: 'through Lifeboat, to the card',
    parts: ['data-image'],
    at: day('2026-10-30'),
  });
  await insertClock({
    handsetId: spare,
    kind: 'return window',
    endsAt: day('2026-11-28'),
    note: 'the shop takes it back until then',
    doneAt: null,
  });
  const apps = [
    [north, 'Trail counter', 'keeps working', 'yes'],
    [spare, 'Hut payments', 'stops', 'no'],
    [spare, 'Club mail', 'unknown', 'no'],
  ] as const;
  for (const [handsetId, name, effect, needed] of apps)
    await setDependency({ handsetId, name, effect, needed, note: '', at: day('2026-10-21') });
  const [may, july] = [BUILDS.spare[0]!, BUILDS.spare[1]!];
  await insertEdge({
    device: 'tarn',
    fromBuild: july.buildId,
    toBuild: may.buildId,
    allowed: 'no',
    bootloader: null,
    note: 'sideload refused: older than the installed build',
    at: day('2026-07-12'),
  });
}

export async function recordShelves(lifeboat: string): Promise<void> {
  await recordRecoveries(lifeboat);
  await recordKitTrials();
  await recordNotes();
}
