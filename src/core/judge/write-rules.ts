import { ALWAYS_PHYSICAL, USUALLY_LOGICAL } from '../text/partition-names';
import { splitFingerprint } from '../formats/facts/parse-facts';
import { compareVersions } from '../text/versions';
import type { ImageCheckId, WritePurpose, WriteSaw } from '../words/write';
import type { WriteProof, WriteQuestion, WriteTarget } from './write-question';

/* The rules of a write, one a check (docs/method.md, "What may be written where"). */

const BATTERY_SECONDS = 3600;
const LEAST_PERCENT = 30;
/** Written in the bootloader only. */
const BOOTLOADER_PARTS = new Set(['bootloader', 'radio', 'modem', 'baseband']);
/** Nothing of an update is left to disturb. */
const SETTLED = new Set(['none', 'done', 'cancelled']);
/** Modes in which a partition is written at all. */
const PHYSICAL_MODES = new Set(['bootloader', 'userspace', 'download', 'recovery', 'system']);

export type Finding = readonly [holds: boolean | null, saw: WriteSaw];
type Rule = (question: WriteQuestion) => Finding;

/** Builds that the image is known to be of, and by what. */
function knownBuilds({ image, proof }: Pick<WriteQuestion, 'image' | 'proof'>): {
  readonly builds: readonly string[];
  readonly by: Extract<WriteSaw, { code: 'build' }>['by'];
} {
  const packaged = image.package?.fingerprint ?? null;
  const stock =
    (proof.kind === 'judged' && proof.belongs === 'yes') || (proof.kind === 'patch' && proof.failed === null)
      ? proof.stockBuild
      : null;
  const builds = [...new Set([...image.fingerprints, ...[packaged, stock].flatMap((one) => one ?? [])])];
  const by =
    image.fingerprints.length > 0
      ? 'own bytes'
      : packaged !== null
        ? 'package'
        : stock !== null
          ? 'stock'
          : 'nothing';
  return { builds, by };
}

const month = (level: string) => level.slice(0, 7);

const build: Rule = ({ image, target, proof }) => {
  const { builds, by } = knownBuilds({ image, proof });
  const { slotBuild, slotPatchLevel } = target;
  const saw: WriteSaw = { code: 'build', image: builds, slot: slotBuild, by };
  if (builds.length > 0 && slotBuild !== null) return [builds.every((one) => one === slotBuild), saw];
  if (builds.length > 1) return [false, saw];
  const own = image.patchLevel;
  return own !== null && slotPatchLevel !== null && month(own) !== month(slotPatchLevel)
    ? [false, { code: 'month', image: own, slot: slotPatchLevel }]
    : [null, saw];
};

const handset: Rule = ({ image, target, proof }) => {
  if (proof.kind === 'recovery')
    return [proof.forHandset.holds, { code: 'recovery', says: proof.forHandset.says }];
  const made = knownBuilds({ image, proof }).builds.flatMap((one) => splitFingerprint(one) ?? []);
  const devices = made.length > 0 ? made.map(({ device }) => device) : (image.package?.devices ?? []);
  const saw = (what: 'device' | 'variant', names: readonly string[], own: string | null): WriteSaw => ({
    code: 'made-for',
    what,
    image: [...new Set(names)],
    handset: own,
  });
  if (devices.length === 0 || target.device === null) return [null, saw('device', devices, target.device)];
  // of a build all names are meant, of a package one of them is enough
  const fits =
    made.length > 0 ? devices.every((one) => one === target.device) : devices.includes(target.device);
  if (!fits) return [false, saw('device', devices, target.device)];
  const products = made.map(({ product }) => product);
  const own = target.installed === null ? null : (splitFingerprint(target.installed)?.product ?? null);
  return own !== null && products.some((one) => one !== own)
    ? [false, saw('variant', products, own)]
    : [true, saw('device', devices, target.device)];
};

const partition: Rule = ({ purpose, image, target: { partition: wanted, exists } }) => {
  if (exists === false) return [false, { code: 'no-such-partition', wanted }];
  if (purpose === 'bootloader' && (ALWAYS_PHYSICAL.test(wanted) || USUALLY_LOGICAL.test(wanted)))
    return [false, { code: 'not-a-bootloader', wanted }];
  const saw: WriteSaw = { code: 'partition', image: image.partition, wanted };
  // the package holds these very bytes under this partition's name
  if (image.package !== null) return [true, saw];
  if (image.partition === null) return [null, saw];
  // a block of verified-boot data that other partitions chain to bears their names only
  if (image.partition === 'vbmeta' && wanted.startsWith('vbmeta_')) return [null, saw];
  return [image.partition === wanted, saw];
};

const slot: Rule = ({ target: { slot: named, slotted } }) => [
  slotted === null ? (named === null ? null : true) : slotted === (named !== null),
  { code: 'slot', slot: named, slotted },
];

const size: Rule = ({ image: { sizeBytes }, target: { partitionBytes } }) => [
  partitionBytes === null ? null : sizeBytes <= partitionBytes,
  { code: 'size', image: sizeBytes, partition: partitionBytes },
];

/** What kind of partition it is, as far as its name and what was read tell. */
function kindOf(purpose: WritePurpose, wanted: string, logical: boolean | null) {
  if (purpose === 'bootloader' || BOOTLOADER_PARTS.has(wanted)) return 'bootloader';
  if (ALWAYS_PHYSICAL.test(wanted)) return 'physical';
  if (logical === null) return USUALLY_LOGICAL.test(wanted) ? 'unknown' : 'physical';
  return logical ? 'logical' : 'physical';
}

const mode: Rule = ({ purpose, target: { partition: wanted, mode: now, logical } }) => {
  const kind = kindOf(purpose, wanted, logical);
  const saw: WriteSaw = { code: 'mode', mode: now, partition: wanted, kind };
  if (now === null) return [null, saw];
  if (!PHYSICAL_MODES.has(now)) return [false, saw];
  if (kind === 'bootloader') return [now === 'bootloader' || now === 'download', saw];
  if (kind === 'logical') return [now === 'userspace', saw];
  return [kind === 'unknown' && now !== 'userspace' ? null : true, saw];
};

const lock: Rule = ({ target: { unlocked } }) => [unlocked, { code: 'lock', unlocked }];

const battery: Rule = ({ target }) => batteryFinding(target.battery);
export function batteryFinding(read: WriteTarget['battery']): Finding {
  const saw: WriteSaw = { code: 'battery', ...read };
  const { percent, fit, ageSeconds } = read;
  if ((percent === null && fit === null) || ageSeconds === null || ageSeconds > BATTERY_SECONDS)
    return [null, saw];
  return [percent === null ? fit : percent >= LEAST_PERCENT && fit !== false, saw];
}

const snapshot: Rule = ({
  purpose,
  target: { partition: wanted, snapshot: state, runningSlot, logical },
}) => {
  const update =
    purpose === 'bootloader' ||
    BOOTLOADER_PARTS.has(wanted) ||
    (!ALWAYS_PHYSICAL.test(wanted) && (logical === true || USUALLY_LOGICAL.test(wanted)));
  return snapshotFinding(state, runningSlot === null ? null : !runningSlot, update);
};

/** @param update it is a build, or a part that only a build brings: it counts as a second update */
export function snapshotFinding(state: string | null, otherSlot: boolean | null, update: boolean): Finding {
  const saw: WriteSaw = { code: 'snapshot', state, otherSlot, update };
  if (SETTLED.has(state ?? '') || (!update && otherSlot === false)) return [true, saw];
  if (state === null) return [null, saw];
  if (update) return [false, saw];
  return [state === 'merging' ? (otherSlot === null ? null : false) : true, saw];
}

/** (a) At least the fuse, or at least what runs; nothing else keeps the handset from never starting again. */
const floor: Rule = ({ image, target }) => {
  if (target.partition !== 'bootloader') return [true, { code: 'no-bootloader' }];
  const [holds, saw] = floorOf({
    level: image.level,
    versions: image.package?.bootloaders ?? [],
    fuse: target.fuse,
    running: target.bootloader,
    runningLevel: target.bootloaderLevel,
  });
  // what nothing shows stays shut: a bootloader below the fuse never starts again
  return [holds ?? false, saw];
};

export interface FloorQuestion {
  /** What the bootloader that would be written says: its level, and its version as its package names it. */
  readonly level: number | null;
  readonly versions: readonly string[];
  readonly fuse: number | null;
  readonly running: string | null;
  readonly runningLevel: number | null;
}

/** Whether a bootloader is known not to be below the fuse; null where nothing shows it. */
export function floorOf({ level, versions, fuse, running, runningLevel }: FloorQuestion): Finding {
  if (level !== null && fuse !== null) return [level >= fuse, { code: 'fuse', fuse, image: level }];
  if (level !== null && runningLevel !== null && level >= runningLevel)
    return [true, { code: 'fuse', fuse: runningLevel, image: level }];
  const version = versions.length === 1 ? versions[0]! : null;
  const order = version !== null && running !== null ? compareVersions(version, running) : null;
  if (order === null) return [null, { code: 'floor-unknown' }];
  return [order >= 0, { code: 'runs', image: version!, running: running!, older: order < 0 }];
}

function judgedProof(proof: Extract<WriteProof, { kind: 'judged' }>, purpose: WritePurpose): Finding {
  const { belongs, times, unexpected, against, same, trust } = proof;
  const saw: WriteSaw = { code: 'judged', belongs, times, unexpected, against };
  if (belongs === 'no' || times > 1) return [false, saw];
  if (same) return [false, { code: 'not-patched' }];
  if (belongs === "can't tell") return [null, saw];
  // whoever trusts it has seen what differs
  if (purpose === 'ready-made') return [trust === null ? null : true, { code: 'trust', reason: trust }];
  if (unexpected > 0) return [null, saw];
  return [times === 0 ? null : true, saw];
}

const proof: Rule = ({ purpose, proof: given, target: { sdk } }) => {
  switch (given.kind) {
    case 'nothing':
      return [null, { code: purpose === 'bootloader' ? 'no-package' : 'nothing-given' }];
    case 'own data':
      return given.patched ? [false, { code: 'names-a-patch' }] : [null, { code: 'self-signed-only' }];
    case 'bytes':
      if (given.patched && purpose === 'stock') return [false, { code: 'names-a-patch' }];
      return [given.same, { code: 'bytes', same: given.same, as: given.as }];
    case 'patch':
      return [given.failed === null, { code: 'patch', held: given.held, of: given.of, failed: given.failed }];
    case 'judged':
      return judgedProof(given, purpose);
    case 'recovery':
      if (given.is.holds === true && given.opensUpTo !== null && sdk !== null && given.opensUpTo < sdk)
        return [null, { code: 'opens-up-to', sdk: given.opensUpTo, handset: sdk }];
      return [given.is.holds, { code: 'recovery', says: given.is.says }];
  }
};

const home: Rule = (question) => {
  const {
    proof: given,
    target: { partition: wanted, recoveryHome },
  } = question;
  const saw: WriteSaw = { code: 'home', home: recoveryHome, wanted };
  if (recoveryHome === null) return [wanted === 'recovery' ? null : false, saw];
  if (recoveryHome !== wanted) return [false, saw];
  if (recoveryHome === 'recovery') return [true, saw];
  const only = given.kind === 'recovery' ? given.onlyFragment : null;
  // everything else in it is of a build, and has to be of the slot's
  const [ofBuild, sawBuild] = build(question);
  if (only === true && ofBuild === false) return [false, sawBuild];
  return [only, { code: 'fragment', home: recoveryHome, only }];
};

/** Every check of an image by its id. */
export const RULES: Readonly<Record<ImageCheckId, Rule>> = {
  build,
  handset,
  partition,
  slot,
  size,
  mode,
  lock,
  battery,
  snapshot,
  floor,
  proof,
  home,
};
