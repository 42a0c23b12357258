import type { Fault, ObserveExpectation } from './expectation';
import type { Found, Sights } from './found';
import { both, held, NOTHING, splitName } from './found';

/* Root that answers or does not, and hashes that were read. */

export function rootFound(sights: Sights, { step }: ObserveExpectation, faults: readonly Fault[]): Found {
  const uid = sights.of('uid').at(-1);
  if (step === 'prove-root')
    return uid ? held('root', `uid ${uid.sight.uid}`, uid.line, 'uid 0', uid.sight.uid === 0) : NOTHING;
  const none = faults.filter(({ id }) => id === 'no-root').at(-1);
  if (uid?.sight.uid === 0) return held('root', 'uid 0', uid.line, 'no root', false);
  return none ? held('root', 'no such command', none.line, undefined, true) : NOTHING;
}

/** A hash of another partition is not about this step; one of another slot is. */
export function hashFound(sights: Sights, expectation: ObserveExpectation): Found {
  const { partition, slot, image, files } = expectation;
  if (files) return filesFound(sights, files);
  const about = sights.of('hash').filter(({ sight }) => {
    const named = sight.name === null || sight.name === '-' ? null : splitName(sight.name);
    return (
      named === null ||
      partition === undefined ||
      named.partition === partition.toLowerCase() ||
      !KNOWN_PARTITION.test(named.partition)
    );
  });
  return both(
    about.map(({ sight, line }) => {
      const named = sight.name === null ? null : splitName(sight.name);
      const otherSlot = named?.slot !== null && named !== null && slot !== undefined && named.slot !== slot;
      if (otherSlot && KNOWN_PARTITION.test(named.partition))
        return held('slot', named.slot!, line, slot, false);
      return held('hash', sight.sha256, line, image?.sha256, sight.sha256 === image?.sha256?.toLowerCase());
    }),
  );
}
/** All of several files have to show their hash; one that shows another differs, whatever the others say. */
function filesFound(sights: Sights, files: NonNullable<ObserveExpectation['files']>): Found {
  const hashes = sights.of('hash');
  const nameOf = (name: string | null) => name?.split(/[\\/]/).at(-1) ?? null;
  const differs = hashes.flatMap(({ sight, line }) => {
    const file = files.find((one) => one.file === nameOf(sight.name));
    return file && file.sha256 !== sight.sha256
      ? held('hash', sight.sha256, line, file.sha256, false).differs
      : [];
  });
  const there = files.every((file) => hashes.some(({ sight }) => sight.sha256 === file.sha256));
  const last = hashes.at(-1);
  return there && last
    ? both([
        { met: [], differs },
        held('hash', `${files.length} of ${files.length} files`, last.line, undefined, true),
      ])
    : { met: [], differs };
}

/** Beside a transfer only a hash that names its file or its partition is about it. */
export function namedHashFound(sights: Sights, { partition, slot, image }: ObserveExpectation): Found {
  const wanted = image?.sha256;
  if (wanted === undefined) return NOTHING;
  const about = sights.of('hash').filter(({ sight }) => {
    if (sight.name === null) return false;
    const named = splitName(sight.name);
    const file = sight.name.split(/[\\/]/).at(-1);
    return (
      file === image?.file ||
      (named.partition === partition && (slot === undefined || named.slot === null || named.slot === slot))
    );
  });
  return both(
    about
      .slice(-1)
      .map(({ sight, line }) =>
        held('hash', sight.sha256, line, wanted, sight.sha256 === wanted.toLowerCase()),
      ),
  );
}

const KNOWN_PARTITION =
  /^(?:boot|init_boot|vendor_boot|vendor_kernel_boot|recovery|vbmeta(?:_\w+)?|dtbo|dtb|system|vendor|product|system_ext|odm|super|bootloader|radio|modem|cache|userdata|misc|persist|abl|xbl|tee|pvmfw)$/;
