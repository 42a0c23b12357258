import { splitFingerprint } from '../formats/facts/parse-facts';
import type { HandsetProfile, HandsetState } from './state';
import { SLOTS } from './state';
import { fuseCause } from './tamper-record';

/** Under this nothing is written to a handset. */
export const LEAST_BATTERY_PERCENT = 30;

const yesNo = (value: boolean) => (value ? 'yes' : 'no');
const hex = (value: number) => `0x${value.toString(16)}`;

/** The token that its maker wants for the code. */
export function unlockToken({ serial, product }: HandsetProfile): string {
  let hash = 0x811c9dc5;
  let token = '';
  for (let round = 0; token.length < 48; round += 1) {
    for (const char of `${serial}/${product}/${round}`)
      hash = Math.imul(hash ^ char.charCodeAt(0), 0x01000193) >>> 0;
    token += hash.toString(16).toUpperCase().padStart(8, '0');
  }
  return token;
}

const TOKEN_LINE = 16;
/** In lines, as a bootloader breaks it. */
function tokenLines(profile: HandsetProfile): [string, string][] {
  const token = unlockToken(profile);
  return Array.from({ length: token.length / TOKEN_LINE }, (_, i) => [
    `unlock-token:${i}`,
    token.slice(i * TOKEN_LINE, (i + 1) * TOKEN_LINE),
  ]);
}

/** The bootloader's variables as it reports them, in order (docs/formats.md, "Facts a handset prints"). */
export function bootloaderVariables(profile: HandsetProfile, state: HandsetState): [string, string][] {
  const lines: [string, string][] = [
    ['product', profile.product],
    ['serialno', profile.serial],
    ['version-bootloader', profile.bootloader],
    ['version-baseband', profile.baseband],
    ['slot-count', String(profile.slotCount)],
    ...(profile.slotCount === 2 ? [['current-slot', state.active] as [string, string]] : []),
    ['unlocked', yesNo(!state.locked)],
    ['max-download-size', hex(profile.maxDownloadBytes)],
    ['battery-soc-ok', yesNo(state.batteryPercent >= LEAST_BATTERY_PERCENT)],
    ['is-userspace', yesNo(state.mode === 'userspace')],
    ['snapshot-update-status', state.snapshot === 'waiting' ? 'snapshotted' : state.snapshot],
    ['anti', String(state.floors.fuse)],
    ['write-count', String(state.record.writes)],
    ...(fuseCause(profile) === 'nothing'
      ? []
      : [['warranty-fuse', state.record.fuseBlown ? 'blown' : 'whole'] as [string, string]]),
  ];
  for (const slot of profile.slotCount === 2 ? SLOTS : []) {
    const { proven, bootable, triesLeft } = state.slots[slot];
    lines.push(
      [`slot-successful:${slot}`, yesNo(proven)],
      [`slot-unbootable:${slot}`, yesNo(!bootable)],
      [`slot-retry-count:${slot}`, String(triesLeft)],
    );
  }
  if (profile.unlockPath === 'mailed code' && state.locked) lines.push(...tokenLines(profile));
  const twoSlots = profile.slotCount === 2;
  for (const [name, size] of Object.entries(profile.partitionBytes)) {
    lines.push([`has-slot:${name}`, yesNo(twoSlots)]);
    for (const full of twoSlots ? SLOTS.map((slot) => `${name}_${slot}`) : [name])
      lines.push(
        [`partition-size:${full}`, hex(size)],
        [`is-logical:${full}`, yesNo(profile.logical.includes(name))],
      );
  }
  return lines;
}

const recordProperties = (profile: HandsetProfile, { record }: HandsetState): Record<string, string> => ({
  'ro.boot.write_count': String(record.writes),
  ...(fuseCause(profile) === 'nothing'
    ? {}
    : { 'ro.boot.warranty_fuse': record.fuseBlown ? 'blown' : 'whole' }),
});

/** The property dump the running system prints. @returns null when nothing runs */
export function propertyDump(profile: HandsetProfile, state: HandsetState): string | null {
  if (!state.running) return null;
  const parts = splitFingerprint(state.running.build);
  const date = parts ? /\.(\d\d)(\d\d)\d\d\./.exec(parts.id) : null;
  const lock = state.locked ? '1' : '0';
  const values: Record<string, string> = {
    'gsm.version.baseband': profile.baseband,
    'ro.boot.flash.locked': lock,
    ...(profile.slotCount === 2 ? { 'ro.boot.slot_suffix': `_${state.running.slot}` } : {}),
    'ro.boot.vbmeta.device_state': state.locked ? 'locked' : 'unlocked',
    'ro.boot.verifiedbootstate': state.locked ? 'green' : 'orange',
    'ro.bootloader': profile.bootloader,
    'ro.build.fingerprint': state.running.build,
    'ro.build.id': parts?.id ?? '',
    'ro.build.version.incremental': parts?.incremental ?? '',
    'ro.build.version.release': parts?.release ?? profile.release,
    'ro.build.version.sdk': String(profile.builds[state.running.build]?.sdk ?? profile.sdk),
    ...(date ? { 'ro.build.version.security_patch': `20${date[1]}-${date[2]}-05` } : {}),
    'ro.crypto.state': state.data.encrypted ? 'encrypted' : 'unencrypted',
    'ro.product.device': profile.product,
    'ro.product.first_api_level': String(profile.firstApiLevel),
    'ro.product.model': profile.model,
    'ro.serialno': profile.serial,
    // where the bootloader prints nothing, the system says what it was handed at the start
    ...(profile.bootloaderWrites ? {} : recordProperties(profile, state)),
    'ro.virtual_ab.enabled': String(profile.mergesUpdates),
    'sys.oem_unlock_allowed': state.unlockSwitch === 'on' ? '1' : '0',
  };
  return Object.entries(values)
    .map(([key, value]) => `[${key}]: [${value}]`)
    .join('\n');
}
