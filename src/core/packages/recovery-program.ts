import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { isKind, nameOf, TYPE } from '../formats/cpio/cpio-archive';

/** Where a recovery's program lies (docs/formats.md, "Boot images"). */
const PROGRAM = /^(sbin|system\/bin)\/recovery$/;

/** The path of a recovery's program in a ramdisk, as a file or as a link to it; null where there is none. */
export function recoveryProgramOf(archives: readonly CpioArchive[]): string | null {
  for (const { entries } of archives)
    for (const entry of entries)
      if ((isKind(entry, TYPE.file) || isKind(entry, TYPE.link)) && PROGRAM.test(nameOf(entry)))
        return nameOf(entry);
  return null;
}
