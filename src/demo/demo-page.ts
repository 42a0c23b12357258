import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { writeFileWhole } from '@/platform/node/file-sink';
import type { OfferedBuild, OfferedPage } from '@/stand-in/download-page';
import { pageFile, pageFiles } from '@/stand-in/download-page';
import { packageName, setName, wholeName } from './demo-package';
import type { DemoBuild } from './world';
import { BUILDS, fingerprintOf } from './world';

/* The download page of the demo: the packages that were made, and lines that only look like them. */

const BRANDS = {
  northGate: 'ondine',
  lookAlike: 'ondine',
  ridge: 'ondine',
  barn: 'marrow',
  weir: 'fallow',
  hut: 'garth',
  spare: 'calder',
} as const;

const BYTES_PER_SECOND = 12 * 1024 * 1024;

async function sha256Of(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

const lineOf = (build: DemoBuild, brand: string, more: Partial<OfferedBuild>): OfferedBuild => ({
  build: build.buildId,
  variant: build.product,
  fingerprint: fingerprintOf(build, brand),
  serials: 'all',
  label: '',
  published: new Date(build.publishedAt).toISOString().slice(0, 10),
  patchLevel: build.patchLevel,
  file: '',
  size: 0,
  sha256: '',
  ...more,
});

/** A package that lies there, and the build that it holds. */
export interface PageLine {
  readonly build: DemoBuild;
  readonly brand: string;
  /** Its name in the folder of packages. */
  readonly file: string;
}

/** Lists every full package of the demo's builds that lies there. */
export async function makeDownloadPage(dataDir: string): Promise<void> {
  const there = new Set(await readdir(pageFiles(dataDir)));
  const lines = Object.entries(BRANDS).flatMap(([kind, brand]) =>
    BUILDS[kind as keyof typeof BUILDS].flatMap((build): PageLine[] => {
      const file = [packageName(build), wholeName(build), setName(build)].find((name) => there.has(name));
      return file === undefined ? [] : [{ build, brand, file }];
    }),
  );
  await writeDownloadPage(dataDir, lines);
}

/** Lists packages, the newest first, with their true sizes and hashes. */
export async function writeDownloadPage(dataDir: string, lines: readonly PageLine[]): Promise<void> {
  const builds: OfferedBuild[] = [];
  for (const { build, brand, file } of lines) {
    const path = join(pageFiles(dataDir), file);
    builds.push(lineOf(build, brand, { file, size: (await stat(path)).size, sha256: await sha256Of(path) }));
  }
  const page: OfferedPage = {
    version: 1,
    title: 'Downloads',
    bytesPerSecond: BYTES_PER_SECOND,
    builds: builds.sort((a, b) => b.published.localeCompare(a.published)),
  };
  await mkdir(join(dataDir, 'download-page'), { recursive: true });
  await writeFileWhole(pageFile(dataDir), new TextEncoder().encode(`${JSON.stringify(page, null, 2)}\n`));
}
