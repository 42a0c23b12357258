/** Every bound on what a file may claim, in one place. Bytes unless the name says otherwise. */
export const LIMITS = {
  /** Largest image held in memory at once. */
  imageBytes: 512 * 1024 * 1024,
  /** A larger image of a whole build is not kept: it passes through from the package's file to the handset. */
  keptImageBytes: 128 * 1024 * 1024,
  /** What opening a package may read of it and be sent on, so that the server opens it too. */
  openingBytes: 64 * 1024 * 1024,
  /** A package that is sent to a handset by sideload. */
  sideloadBytes: 8 * 1024 * 1024 * 1024,
  /**
   * Largest ramdisk, unpacked, all streams together: several times what a handset has room for at its start.
   */
  ramdiskBytes: 256 * 1024 * 1024,
  /** Entries in one ramdisk. */
  cpioEntries: 200_000,
  cpioNameBytes: 4096,
  /** Streams and archives in one ramdisk. */
  ramdiskStreams: 64,
  ramdiskArchives: 256,
  /** An update payload's manifest. */
  manifestBytes: 64 * 1024 * 1024,
  partitions: 1024,
  operationsPerPartition: 1_000_000,
  /** One payload operation's blob, and what it may unpack to. */
  operationBlobBytes: 256 * 1024 * 1024,
  operationOutputBytes: 512 * 1024 * 1024,
  /** A partition that a payload may describe. */
  partitionBytes: 64 * 1024 ** 3,
  zipEntries: 500_000,
  zipNameBytes: 4096,
  zipDirectoryBytes: 256 * 1024 * 1024,
  /** A deflated entry that is held unpacked in memory; larger ones are unpacked as they are read. */
  unpackedEntryBytes: 96 * 1024 * 1024,
  /** A small text member of a package (metadata, info). */
  textMemberBytes: 1024 * 1024,
  /** Texts of one kind that are read to find out what a package is. */
  textMembers: 64,
  vbmetaBytes: 64 * 1024,
  sparseChunks: 1_000_000,
  /** What the chunks of a sparse image may fill with a pattern that is not zeros, all together. */
  sparseFillBytes: 4 * 1024 ** 3,
  tarMembers: 10_000,
  flashSteps: 10_000,
  /** Files given together as one package. */
  packageFiles: 256,
  /** A packed image that is unpacked only to learn which build it is of. */
  peekBytes: 96 * 1024 * 1024,
  /** How often a file may be packed inside itself. */
  wrappings: 4,
  /** A whole store in one file, and one table of it. */
  backupBytes: 64 * 1024 ** 3,
  backupTableBytes: 256 * 1024 * 1024,
  kitBytes: 64 * 1024 * 1024,
  /** An install package that is kept whole, to be put onto the handset. */
  installBytes: 256 * 1024 * 1024,
  kitSteps: 1000,
  cmdlineBytes: 1535,
  /** Apps that a person says something of at once. */
  apps: 60,
  markerBytes: 4096,
  /** Text pasted or printed by a handset. */
  factsTextBytes: 4 * 1024 * 1024,
} as const;
