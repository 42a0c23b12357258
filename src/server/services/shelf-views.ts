import 'server-only';
import type { KitOnShelf, RecoveryOnShelf } from '@/contracts/handset-view';
import type { Bench } from '@/core/bench/bench';
import { kitItem } from '@/core/bench/judgements';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';

/* Kits and recoveries as the store's page shows them. */

const range = (from: number | null, to: number | null) =>
  from === null && to === null ? 'any level' : `platform levels ${from ?? 'any'} to ${to ?? 'any'}`;

function trialViews(
  bench: Bench,
  shelf: 'kit' | 'recovery',
  item: string,
  names: ReadonlyMap<string, string>,
) {
  return bench.trials
    .filter((trial) => trial.shelf === shelf && trial.item === item)
    .map(({ outcome, fingerprint, handsetId, note, at }) => ({
      outcome,
      build: splitFingerprint(fingerprint)?.id ?? fingerprint,
      handset: handsetId === null ? null : (names.get(handsetId) ?? null),
      note,
      at,
    }));
}

export function kitShelf(bench: Bench, names: ReadonlyMap<string, string>): KitOnShelf[] {
  return bench.kits.map((kit) => {
    const { sdk, partitions } = kit.supports;
    const supports = `${range(sdk?.[0] ?? null, sdk?.[1] ?? null)}, ${partitions?.join(' or ') ?? 'any partition'}`;
    return {
      id: kitItem(kit),
      sha256: kit.sha256,
      name: kit.name,
      version: kit.version,
      channel: kit.channel,
      supports,
      trials: trialViews(bench, 'kit', kitItem(kit), names),
    };
  });
}

export function recoveryShelf(bench: Bench, names: ReadonlyMap<string, string>): RecoveryOnShelf[] {
  return bench.recoveries.map((row) => ({
    id: row.id,
    name: row.name,
    version: row.version,
    channel: row.channel,
    devices: row.devices,
    supports: range(row.sdkFrom, row.sdkTo),
    sha256: row.sha256,
    note: row.note,
    trials: trialViews(bench, 'recovery', row.id, names),
  }));
}
