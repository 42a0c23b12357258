import { wordsBy } from './words-by';

/* Where root and the recovery sit, and how that is known: codes, and how a person reads them. */

export type RootSays =
  | { readonly code: 'init-boot' | 'boot-ramdisk'; readonly witness: 'image' | 'package' }
  | { readonly code: 'only-recovery' | 'no-ramdisk' | 'package-boot' }
  | { readonly code: 'names-init-boot' | 'names-boot' }
  | { readonly code: 'launched'; readonly level: number; readonly withInitBoot: boolean }
  | { readonly code: 'nothing-known' };

export const rootWords = wordsBy<RootSays>({
  'init-boot': ({ witness }) =>
    witness === 'image' ? 'The stock image of init_boot has a ramdisk.' : 'The package holds init_boot.',
  'boot-ramdisk': ({ witness }) =>
    `${witness === 'image' ? 'The stock image' : 'The package'} of boot has a ramdisk, and there is no init_boot.`,
  'only-recovery': () => 'boot has no ramdisk and there is no init_boot, so only recovery’s ramdisk is left.',
  'no-ramdisk': () =>
    'Neither init_boot, boot nor recovery has a ramdisk: this method cannot work on this handset.',
  'package-boot': () => 'The package holds boot and no init_boot.',
  'names-init-boot': () => 'Its bootloader names an init_boot partition.',
  'names-boot': () => 'Its bootloader names boot and no init_boot.',
  launched: ({ level, withInitBoot }) =>
    withInitBoot
      ? `It was launched with platform level ${level}; such handsets usually have init_boot.`
      : `It was launched with platform level ${level}, before there was init_boot; on such handsets it is usually boot.`,
  'nothing-known': () => 'Neither its partitions nor the release it was launched with are known.',
});

/** How it is known where the recovery lives, or why it is not. */
export type RecoveryHomeSays =
  'own-partition' | 'vendor-boot-ramdisk' | 'boot-ramdisk' | 'partitions-unread' | 'no-image-holds-one';

export const RECOVERY_HOME_WORDS: Readonly<Record<RecoveryHomeSays, string>> = {
  'own-partition': 'It has a recovery partition.',
  'vendor-boot-ramdisk': 'This build’s vendor_boot holds a recovery ramdisk.',
  'boot-ramdisk': 'boot has a ramdisk, and there is no recovery partition.',
  'partitions-unread': 'Whether it has a recovery partition was never read: paste its bootloader variables.',
  'no-image-holds-one': 'No image that was looked into holds one.',
};

/** What writing the image that carries root does to the recovery. `root` is null where root's place is unknown. */
export type OnRootWrite =
  | { readonly code: 'overwrites-both'; readonly partition: 'boot' | 'recovery' }
  | { readonly code: 'boot-overwrites' | 'unknown' }
  | { readonly code: 'left-alone' | 'fragment-left-alone'; readonly root: string | null };

type LeftAlone = Extract<OnRootWrite, { root: unknown }>;
const leftAlone = ({ root }: LeftAlone) =>
  `Writing ${root ?? 'the image that carries root'} leaves it alone.`;

export const onRootWriteWords = wordsBy<OnRootWrite>({
  'overwrites-both': ({ partition }) =>
    partition === 'boot'
      ? 'Root and recovery share boot’s ramdisk: writing boot overwrites both.'
      : 'Root and recovery share this image: writing one overwrites the other.',
  'boot-overwrites': () => 'Writing boot overwrites it.',
  'left-alone': leftAlone,
  'fragment-left-alone': (says: LeftAlone) =>
    `${leftAlone(says)} Only the recovery fragment is replaced, in this build’s own vendor_boot.`,
  unknown: () => 'Not known.',
});

/** What a system update does to the recovery. */
export type OnUpdate = 'stock-over-it' | 'stock-again-at-start' | 'own-vendor-boot' | 'own-boot' | 'unknown';

const STOCK_OVER_IT = 'An update writes its own stock recovery over it.';

export const ON_UPDATE_WORDS: Readonly<Record<OnUpdate, string>> = {
  'stock-over-it': STOCK_OVER_IT,
  'stock-again-at-start': `${STOCK_OVER_IT} Some systems also put stock recovery back at their next start.`,
  'own-vendor-boot': 'An update writes its own vendor_boot, which replaces the recovery.',
  'own-boot': 'An update writes its own boot, which replaces the recovery.',
  unknown: 'Not known.',
};
