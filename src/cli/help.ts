/* What each verb is for, as `eterno help` and `eterno VERB --help` say it. */

interface VerbHelp {
  readonly usage: string;
  readonly does: string;
  readonly options?: Readonly<Record<string, string>>;
  readonly example: string;
  /** The shape of a JSON file that it reads. */
  readonly reads?: string;
}

const OUT = {
  '--out PATH': 'where the result goes; an existing file is never replaced',
  '--force': 'replace it all the same',
};
const FACTS =
  'FACTS.json is what `eterno facts` prints: { fingerprint, device, model, buildId, incrementalVersion, patchLevel, … }, unknown = null';
const PROOF = {
  '--facts FACTS.json': 'what is installed on the handset',
  '--stock STOCK': 'the stock image of that build, which the image is or was made from',
  '--package FILE': 'or the package it came out of; may be given several times for a set',
  '--kit KIT': 'the kit that patched it, to prove the patch in full',
  '--unproved REASON': 'goes past what is not known, never past what is wrong',
};
const TO = { '--to HOST:PORT': 'where the handset answers' };

export const HELP = {
  identify: {
    usage: 'identify FILE…',
    does: 'what a package is and holds; several files or a folder make one set',
    example: 'eterno identify hill-update.zip',
  },
  fit: {
    usage: 'fit FILE… --facts FACTS.json',
    does: 'whether a package fits a handset, fact by fact',
    options: { '--facts FACTS.json': 'what is known of the handset' },
    example: 'eterno fit hill-update.zip --facts north.json',
    reads: FACTS,
  },
  take: {
    usage: 'take FILE… --image PARTITION --out PATH [--source OLD_IMAGE]',
    does: 'takes one image out of a package, checked against the hash that the package states',
    options: {
      '--image PARTITION': 'which',
      '--source OLD_IMAGE': 'the old image, for incremental packages',
      ...OUT,
    },
    example: 'eterno take hill-update.zip --image init_boot --out init_boot.img',
  },
  inspect: {
    usage: 'inspect IMAGE',
    does: 'everything about one image',
    example: 'eterno inspect init_boot.img',
  },
  list: {
    usage: 'list IMAGE [--path P --out F]',
    does: 'the entries of the image’s ramdisk; with --path takes one out',
    options: { '--path P': 'an entry of the ramdisk', ...OUT },
    example: 'eterno list init_boot.img --path init --out init',
  },
  compare: {
    usage: 'compare A B',
    does: 'two images side by side: sections, header, entries',
    example: 'eterno compare stock.img patched.img',
  },
  patch: {
    usage:
      'patch STOCK --kit KIT --out PATH [--avb carry|rehash|sign] [--key PEM] [--fingerprint F] [--ramdisk gzip] [--option NAME=VALUE]…',
    does: 'patches a stock image with a kit and proves the result',
    options: {
      '--kit KIT': 'the kit’s package',
      '--avb WAY': 'what becomes of verified-boot data: carry (as it was), rehash, or sign with --key',
      '--key PEM': 'your own RSA key, for sign',
      '--fingerprint F': 'the build, where the image does not name it',
      '--ramdisk gzip': 'pack as gzip where its own kind cannot be written here',
      '--option NAME=VALUE': 'a choice that the kit offers, one each; its own default where it is not named',
      ...OUT,
    },
    example: 'eterno patch init_boot.img --kit burrow-7.3.kit.zip --out patched.img',
  },
  fragment: {
    usage: 'fragment VENDOR_BOOT --replace WHICH=RAMDISK --out PATH [--avb carry|rehash|sign] [--key PEM]',
    does: 'replaces one ramdisk of a vendor_boot, such as its recovery, and proves the result',
    options: {
      '--replace WHICH=RAMDISK':
        'which one, by its type (platform, recovery, dlkm, none) where one is of it, else by its name; and the file that goes in as it is',
      '--avb WAY': 'what becomes of verified-boot data: carry (as it was), rehash, or sign with --key',
      '--key PEM': 'your own RSA key, for sign',
      ...OUT,
    },
    example: 'eterno fragment vendor_boot.img --replace recovery=lifeboat.cpio.gz --out changed.img',
  },
  unpatch: {
    usage: 'unpatch PATCHED --kit KIT [--stock STOCK] --out PATH',
    does: 'the stock image again; without STOCK only where every step can be taken back',
    options: { '--kit KIT': 'the kit that patched it', '--stock STOCK': 'the stock image', ...OUT },
    example: 'eterno unpatch patched.img --kit burrow-7.3.kit.zip --out stock.img',
  },
  kit: {
    usage: 'kit check FILE',
    does: 'what is wrong with a kit',
    example: 'eterno kit check burrow-7.3.kit.zip',
  },
  pack: {
    usage: 'pack --header-version N … --out PATH',
    does: 'makes a boot or vendor_boot image from its parts',
    options: OUT,
    example: 'eterno pack --header-version 4 --ramdisk ramdisk.lz4 --out init_boot.img',
  },
  repack: {
    usage: 'repack FILE… --replace MEMBER=IMAGE --out DIR',
    does: 'writes a tar set again with a member replaced',
    options: {
      '--replace MEMBER=IMAGE': 'may be given several times',
      '--out DIR': 'a folder; files in it are never replaced',
      '--force': OUT['--force'],
    },
    example: 'eterno repack set/ --replace boot.img.lz4=patched.img --out new/',
  },
  set: {
    usage: 'set FILE…',
    does: 'a firmware set as its parts: what each is for, of which build, what is missing or mixed',
    example: 'eterno set firmware/',
  },
  sparse: {
    usage: 'sparse IMAGE --out PATH',
    does: 'to a sparse image',
    options: OUT,
    example: 'eterno sparse system.img --out system.simg',
  },
  unsparse: {
    usage: 'unsparse IMAGE --out PATH',
    does: 'from a sparse image',
    options: OUT,
    example: 'eterno unsparse system.simg --out system.img',
  },
  facts: {
    usage: 'facts FILE',
    does: 'facts from a property dump or bootloader variables',
    example: 'eterno facts north.txt > north.json',
  },
  observe: {
    usage: 'observe EXPECT.json TEXT',
    does: 'what a handset or a tool printed, held against what a step expects: met, otherwise or not enough',
    example: 'eterno observe write.json printed.txt',
    reads:
      'EXPECT.json: { step, mode, serial, product, slot, partition, lock, image: { sha256, size, file }, build: { fingerprint, buildId }, freshWipe }; all but step may be left out',
  },
  judge: {
    usage: 'judge PATCHED --stock STOCK [--kit KIT]',
    does: 'an image patched elsewhere against its stock image: does it belong, how often is it patched, what changed',
    options: {
      '--stock STOCK': 'the stock image that it may come from',
      '--kit KIT': 'the kit that its note names: what that one changes is expected',
    },
    example: 'eterno judge brought.img --stock init_boot.img',
  },
  'judge-write': {
    usage:
      'judge-write IMAGE --to HANDSET.json --partition P [--slot S] --purpose root|stock|recovery|ready-made|bootloader [--stock STOCK] [--kit KIT] [--package FILE…]',
    does: 'may this image be written there: allowed, refused (exit 4) or can’t tell, with every check',
    options: {
      '--to HANDSET.json': 'the handset',
      '--partition P': 'without its slot',
      '--slot S': 'a or b, needed where the partition has slots',
      '--purpose WHAT': 'what it is written for',
      '--stock STOCK': PROOF['--stock STOCK'],
      '--kit KIT': PROOF['--kit KIT'],
      '--package FILE': PROOF['--package FILE'],
    },
    example:
      'eterno judge-write patched.img --to north.json --partition init_boot --slot a --purpose root --stock init_boot.img',
    reads:
      'HANDSET.json: what `eterno facts` prints, and { slotContents: { a: { build }, b }, snapshot: none|waiting|merging, mode, batteryPercent, batteryAge (seconds), now, recoveryHome: recovery|boot|vendor_boot, fuse, bootloaderLevel }; unknown = null',
  },
  plan: {
    usage: 'plan STATE.json',
    does: 'ways and plans for a handset’s state and a goal; each step with what it really does, and what the handset is if it ends there or loses its power',
    example: 'eterno plan state.json',
    reads:
      'STATE.json: { goal, target, handset: { sdk, partitions, recoveryHome, slotCount, rootPartition, unlockPath, hasDownload, bootloaderWrites, startsOnce, strictRamdisk, restoresRecovery, mergesUpdates, needsVbmetaFlags, openBuilds, edges, builds, makerFloor }, state: { builds, active, locked, unlockSwitch, mode, modules, images, slots, snapshot, update, floors, data, record, batteryPercent, rooted, vbmetaFlags, rootApp, settings }, kit, recovery, fullPackages, limits, wishes, weights }; unknown = null, and a key that is not known is refused',
  },
  variables: {
    usage: 'variables --to HOST:PORT',
    does: 'what the bootloader says of itself',
    options: TO,
    example: 'eterno variables --to 127.0.0.1:5554',
  },
  write: {
    usage: 'write --to HOST:PORT --partition P [--slot S] --facts FACTS.json --stock STOCK [--kit KIT] IMAGE',
    does: 'writes an image to a partition from the bootloader, once it is proved to belong there',
    options: {
      ...TO,
      '--partition P': 'without its slot',
      '--slot S': 'a or b, needed where the partition has slots',
      ...PROOF,
    },
    example:
      'eterno write --to 127.0.0.1:5554 --partition init_boot --slot a --facts north.json --stock init_boot.img patched.img',
    reads: FACTS,
  },
  'start-once': {
    usage: 'start-once --to HOST:PORT --facts FACTS.json --stock STOCK [--kit KIT] IMAGE',
    does: 'starts an image from memory, once; nothing on the handset is written',
    options: { ...TO, ...PROOF },
    example: 'eterno start-once --to 127.0.0.1:5554 --facts north.json --stock boot.img patched.img',
    reads: FACTS,
  },
  'stand-in': {
    usage: 'stand-in [--port N] [--profile P]',
    does: 'starts the simulated handsets, or one of them, until it is stopped',
    options: { '--port N': 'the first one’s; 0 takes a free one', '--profile P': 'which one' },
    example: 'eterno stand-in --profile north-gate',
  },
  'download-page': {
    usage: 'download-page [--port N]',
    does: 'starts the stand-in of a maker’s download page, until it is stopped',
    options: { '--port N': '0 takes a free one' },
    example: 'eterno download-page',
  },
} as const satisfies Readonly<Record<string, VerbHelp>>;

export type VerbName = keyof typeof HELP;

/** What one verb does, for a person. */
export function helpOf(name: VerbName): string {
  const { usage, does, options = {}, example, reads }: VerbHelp = HELP[name];
  const rows = Object.entries(options).map(([option, what]) => `  ${option.padEnd(24)}${what}`);
  return [
    `eterno ${usage}`,
    '',
    `${name}: ${does}.`,
    ...(rows.length > 0 ? ['', ...rows] : []),
    ...(reads ? ['', reads] : []),
    '',
    `Example: ${example}`,
  ].join('\n');
}

/** All verbs, a line each. */
export const helpOfAll = (): string =>
  [
    'eterno VERB …   JSON on standard output; exit 0 done, 2 wrong usage, 3 bad input, 4 refused, 1 anything else.',
    '',
    ...Object.entries(HELP).map(([name, { does }]) => `  ${name.padEnd(12)}${does}`),
    `  ${'batch'.padEnd(12)}one JSON list of arguments a line on standard input, one answer a line`,
    '',
    'eterno VERB --help says more of one.',
  ].join('\n');
