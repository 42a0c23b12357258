import { describe, expect, it } from 'vitest';
import { scriptTargets } from './script-targets';

/* What a script says it writes, line by line; what it works out by itself is never taken for nothing. */

const of = (script: string) => {
  const { targets, unclear } = scriptTargets(script);
  return [targets.map(({ partition, member }) => `${partition}=${member}`).join(' '), unclear];
};

describe('what an install script writes', () => {
  it.each([
    ['package_extract_file("boot.img", "/dev/block/by-name/boot");', 'boot=boot.img', null],
    ['package_extract_file("a/r.img","/dev/block/platform/soc/by-name/recovery")', 'recovery=a/r.img', null],
    ['dd if=/tmp/boot.img of=/dev/block/by-name/boot_a bs=4096', 'boot=boot.img', null],
    ['dd if="$TMP/logo.bin" of="/dev/block/by-name/logo"', 'logo=logo.bin', null],
    ['cat ./boot.img > /dev/block/by-name/boot', 'boot=boot.img', null],
    ['unzip -p "$3" boot.img > /dev/block/by-name/boot;', 'boot=boot.img', null],
    ['flash_it /dev/block/by-name/radio', 'radio=null', null],
    ['dd of=/dev/block/by-name/boot', 'boot=null', null],
    ['write /dev/block/by-name/vbmeta_b', 'vbmeta=null', null],
    [
      'dd if=a.img of=/dev/block/by-name/boot; dd if=b.img of=/dev/block/by-name/dtbo',
      'boot=a.img dtbo=b.img',
      null,
    ],
  ])('%s', (script, targets, unclear) => expect(of(script)).toEqual([targets, unclear]));

  it.each([
    ['dd if=boot.img of=/dev/block/by-name/$P', '', 'computed'],
    ['dd if=boot.img of=$BLOCK', '', 'computed'],
    ['cat boot.img > "$TARGET"', '', 'computed'],
    ['cat boot.img > `find_block boot`', '', 'computed'],
    ['dd if=boot.img of=/dev/block/mmcblk0p5', '', 'computed'],
    ['dd if=a.img of=/dev/block/by-name/boot\ndd if=b.img of=$OTHER', 'boot=a.img', 'computed'],
    [
      'dd if=a.img of=/dev/block/by-name/boot\ndd if=b.img of=/dev/block/by-name/boot_b',
      'boot=b.img',
      'computed',
    ],
    ['dd if=a.img of=/dev/block/by-name/boot\ndd if=b.img of=/dev/mtd/mtd3', 'boot=a.img', 'computed'],
    ['echo done > /dev/null', '', 'unnamed'],
    ['mount /system; cp a b', '', 'unnamed'],
    ['', '', 'unnamed'],
    ['# dd if=boot.img of=/dev/block/by-name/boot', '', 'unnamed'],
    ['dd if=/dev/block/by-name/boot of=/tmp/old.img', '', 'unnamed'],
    ['cat /dev/block/by-name/boot | sha256sum', '', 'unnamed'],
    ['cat boot.img > $(find_block boot)', '', 'computed'],
    ['echo done >&2', '', 'unnamed'],
  ])('%s: not all of it is told', (script, targets, unclear) =>
    expect(of(script)).toEqual([targets, unclear]),
  );

  it('the same file to both slots is one', () =>
    expect(of('dd if=b.img of=/dev/block/by-name/boot_a\ndd if=b.img of=/dev/block/by-name/boot_b')).toEqual([
      'boot=b.img',
      null,
    ]));
});
