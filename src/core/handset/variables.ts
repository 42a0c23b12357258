import { splitFingerprint } from '../formats/facts/parse-facts';
import type { HandsetProfile, HandsetState } from './state';
import { SLOTS } from './state';

const yesNo = (value: boolean) => (value ? 'yes' : 'no');
const hex = (value: number) => `0x${value.toString(16)}`;

/** The bootloader's variables as it reports them, in order (docs/formats.md, "Facts a handset prints"). */
export function bootloaderVariables(profile: HandsetProfile, state: HandsetState): [string, string][] {
  const lines: [string, string][] = [
    ['product', profile.product],
    ['serialno', profile.serial],
    ['version-bootloader', profile.bootloader],
    ['version-baseband', profile.baseband],
    ['slot-count', String(profile.slotCount)],
    ['current-slot', state.active],
    ['unlocked', yesNo(!state.locked)],
    ['max-download-size', hex(profile.maxDownloadBytes)],
    ['battery-soc-ok', yesNo(state.batteryPercent >= 30)],
    ['is-userspace', yesNo(state.mode === 'userspace')],
    ['snapshot-update-status', state.snapshot === 'waiting' ? 'snapshotted' : state.snapshot],
    ['anti', String(state.floors.fuse)],
  ];
  for (const slot of SLOTS) {
    const { proven, bootable, triesLeft } = state.slots[slot];
    lines.push(
      [`slot-successful:${slot}`, yesNo(proven)],
      [`slot-unbootable:${slot}`, yesNo(!bootable)],
      [`slot-retry-count:${slot}`, String(triesLeft)],
    );
  }
  for (const [name, size] of Object.entries(profile.partitionBytes)) {
    lines.push([`has-slot:${name}`, 'yes']);
    for (const slot of SLOTS) lines.push([`partition-size:${name}_${slot}`, hex(size)], [`is-logical:${name}_${slot}`, 'no']);
  }
  return lines;
}

/** The property dump the running system prints. @returns null when nothing runs */
export function propertyDump(profile: HandsetProfile, state: HandsetState): string | null {
  if (!state.running) return null;
  const parts = splitFingerprint(state.running.build);
  const date = parts ? /\.(\d\d)(\d\d)\d\d\./.exec(parts.id) : null;
  const lock = state.locked ? '1' : '0';
  const values: Record<string, string> = {
    'gsm.version.baseband': profile.baseband,
    'ro.boot.flash.locked': lock,
    'ro.boot.slot_suffix': `_${state.running.slot}`,
    'ro.boot.vbmeta.device_state': state.locked ? 'locked' : 'unlocked',
    'ro.boot.verifiedbootstate': state.locked ? 'green' : 'orange',
    'ro.bootloader': profile.bootloader,
    'ro.build.fingerprint': state.running.build,
    'ro.build.id': parts?.id ?? '',
    'ro.build.version.incremental': parts?.incremental ?? '',
    'ro.build.version.release': profile.release,
    'ro.build.version.sdk': String(profile.sdk),
    ...(date ? { 'ro.build.version.security_patch': `20${date[1]}-${date[2]}-05` } : {}),
    'ro.crypto.state': state.data.encrypted ? 'encrypted' : 'unencrypted',
    'ro.product.device': profile.product,
    'ro.product.first_api_level': String(profile.firstApiLevel),
    'ro.product.model': profile.model,
    'ro.serialno': profile.serial,
    'ro.virtual_ab.enabled': String(profile.mergesUpdates),
    'sys.oem_unlock_allowed': state.unlockSwitch === 'on' ? '1' : '0',
  };
  return Object.entries(values)
    .map(([key, value]) => `[${key}]: [${value}]`)
    .join('\n');
}
