import { concatBytes } from '@/core/bytes/bytes';
import type { ZipMember } from '@/platform/any/write-zip';
import { writeZip } from '@/platform/any/write-zip';
import { programLike, seedOf } from './noise';

const KIT = {
  format: 'eterno-kit',
  formatVersion: 2,
  id: 'burrow',
  name: 'Burrow',
  version: '7.3',
  versionCode: 703,
  channel: 'stable',
  supports: { sdk: [28, 37], partitions: ['init_boot', 'boot', 'recovery'], architectures: ['arm64'] },
  marker: '.burrow/provenance.json',
  options: {
    quiet: {
      title: 'Write no start log',
      kind: 'bool',
      default: true,
      explain: 'Off, it notes each start in .burrow/starts, which helps to find out what a loop came from.',
    },
  },
  afterFailedStarts: { starts: 3, does: 'rest-modules' },
  companion: { name: 'Burrow', minimumVersionCode: 700 },
  steps: [
    { do: 'mkdir', path: '.burrow', mode: '0750' },
    { do: 'keep', path: 'init', as: '.burrow/init.stock' },
    { do: 'add', path: '.burrow/su', from: 'files/su', mode: '0750' },
    { do: 'add', path: 'init', from: 'files/init', mode: '0750', gid: 2000 },
    {
      do: 'write',
      path: '.burrow/provenance.json',
      mode: '0640',
      text: '{"stock":"{{stock.sha256}}","kit":"{{kit.id}} {{kit.version}}","build":"{{build.fingerprint}}"}\n',
    },
    {
      do: 'write',
      path: '.burrow/starts',
      mode: '0640',
      text: 'quiet={{option.quiet}}\n',
      when: { option: { quiet: false } },
    },
    { do: 'link', path: 'sbin-su', to: '.burrow/su' },
    { do: 'remove', path: 'verity_key', ifPresent: true },
    { do: 'replaceText', path: 'first_stage_ramdisk/fstab.demo', find: ',verify', with: '', ifPresent: true },
    { do: 'cmdline', append: 'burrow=1' },
  ],
};

/** The demo kit: invented, and harmless — its two programs are texts that no processor runs. */
export const burrowKit = (): Promise<Uint8Array> => kitFile(KIT, []);

/** The same with a kernel of its own, as kernel packages have one. */
export const kernelKit = (): Promise<Uint8Array> =>
  kitFile(
    {
      ...KIT,
      id: 'burrow-kernel',
      name: 'Burrow with kernel',
      steps: [...KIT.steps, { do: 'kernel', from: 'files/kernel' }],
    },
    [{ name: 'files/kernel', bytes: programLike(seedOf('kernel package'), 3_000_000), stored: false }],
  );

async function kitFile(kit: object, more: readonly ZipMember[]): Promise<Uint8Array> {
  const text = new TextEncoder();
  const parts: Uint8Array[] = [];
  await writeZip(
    [
      { name: 'kit.json', bytes: text.encode(`${JSON.stringify(kit, null, 2)}\n`), stored: false },
      {
        name: 'files/su',
        bytes: text.encode('Burrow stand-in for a root program. It does nothing.\n'),
        stored: false,
      },
      {
        name: 'files/init',
        bytes: text.encode(
          'Burrow stand-in for a first program. It would start .burrow/init.stock.\n'.repeat(40),
        ),
        stored: false,
      },
      ...more,
    ],
    async (part) => void parts.push(part.slice()),
  );
  return concatBytes(parts);
}
export const KIT_FILE_NAME = 'burrow-7.3.kit.zip';
