import type { ChildProcess } from 'node:child_process';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { openAsBlob, readFileSync, rmSync, statSync } from 'node:fs';
import { mkdtemp, open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { concatBytes } from '@/core/bytes/bytes';
import { appendAvbFooter } from '@/core/formats/avb/writer';
import type { Operation, PartitionUpdate } from '@/core/formats/payload/layout';
import { manifestBytes, payloadHeaderBytes } from '@/core/formats/payload/layout';
import { noise } from '@/demo/noise';
import { writeArchive } from '@/demo/demo-package';
import { openFile } from '@/platform/node/file-source';
import { nodeDigests } from '@/platform/node/node-digests';
import { ensureBuilt } from './prepare.mjs';
import { environment, migrate, startServerSomewhere, startStandIn, stop } from './stack.mjs';
import { makeStandIn, OCTOBER, PACKAGE } from './whole-build-world';

/*
 * A build of 3.5 GB whose system is 1.5 GiB, written to a stand-in by the server that people use: what it
 * costs the server in memory, and how many bytes it reads for it.
 */

const MIB = 1024 * 1024;
const BLOCK = 4096;
const RUN_BYTES = 2 * MIB;
/** Sizes in MiB; what is small is kept. */
const SIZES = {
  init_boot: 8,
  boot: 64,
  bootloader: 16,
  radio: 96,
  system: 1536,
  product: 900,
  vendor: 512,
  system_ext: 206,
} as const;
const sha256 = (bytes: Uint8Array) => new Uint8Array(createHash('sha256').update(bytes).digest());
/** Runs of bytes that do not pack, in ever another order. */
const POOL = Array.from({ length: 61 }, (_, i) => noise(i + 1, RUN_BYTES));

async function imageOf(partition: string, mib: number): Promise<Uint8Array> {
  const content = new Uint8Array(mib * MIB - 128 * 1024);
  for (let at = 0, i = partition.length; at < content.length; at += RUN_BYTES, i += 1)
    content.set(POOL[i % POOL.length]!.subarray(0, content.length - at), at);
  const prefix = `com.android.build.${partition}`;
  return appendAvbFooter(
    content,
    {
      partition,
      partitionBytes: mib * MIB,
      salt: noise(9, 32),
      rollbackIndex: 1,
      release: 'bench 1.0',
      properties: { [`${prefix}.fingerprint`]: OCTOBER, [`${prefix}.security_patch`]: '2026-10-05' },
    },
    nodeDigests,
  );
}

/** Writes the package, image by image. @returns what its images are together, in bytes */
async function writePackage(path: string, roots: ReadonlyMap<string, Uint8Array>): Promise<number> {
  const data = `${path}.data`;
  const file = await open(data, 'w');
  const partitions: PartitionUpdate[] = [];
  let offset = 0;
  for (const [name, mib] of Object.entries(SIZES)) {
    const image = roots.get(name) ?? (await imageOf(name, mib));
    const operations: Operation[] = [];
    for (let at = 0; at < image.length; at += RUN_BYTES) {
      const run = image.subarray(at, at + RUN_BYTES);
      operations.push({
        type: 'REPLACE',
        dataOffset: offset,
        dataLength: run.length,
        srcExtents: [],
        dstExtents: [{ startBlock: at / BLOCK, blockCount: run.length / BLOCK }],
        dataSha256: sha256(run),
        srcSha256: null,
      });
      await file.write(run);
      offset += run.length;
    }
    partitions.push({
      name,
      size: image.length,
      sha256: sha256(image),
      oldSize: null,
      oldSha256: null,
      computesTree: false,
      version: null,
      operations,
    });
  }
  await file.close();
  const manifest = manifestBytes({
    blockSize: BLOCK,
    minorVersion: 0,
    maxTimestamp: 1_791_000_000,
    partialUpdate: false,
    securityPatchLevel: '2026-10-05',
    partitions,
  });
  const head = concatBytes([
    payloadHeaderBytes({ manifestSize: manifest.length, metadataSignatureSize: 0 }),
    manifest,
  ]);
  const source = await openFile(data);
  const metadata = `ota-type=AB\npost-build=${OCTOBER}\npost-security-patch-level=2026-10-05\npre-device=hill\n`;
  await writeArchive(path, [
    { name: 'META-INF/com/android/metadata', bytes: new TextEncoder().encode(metadata), stored: false },
    {
      name: 'payload.bin',
      bytes: {
        name: 'payload.bin',
        size: head.length + source.size,
        async read(start, end, signal) {
          const front = head.slice(Math.min(start, head.length), Math.min(end, head.length));
          const rest = await source.read(
            Math.max(0, start - head.length),
            Math.max(0, end - head.length),
            signal,
          );
          return concatBytes([front, rest]);
        },
      },
      stored: true,
    },
  ]);
  await source.close();
  rmSync(data);
  return offset;
}

const procFile = (pid: number, name: string) => readFileSync(`/proc/${pid}/${name}`, 'utf8');
const numberAfter = (text: string, word: string) =>
  Number(new RegExp(`^${word}:\\s+(\\d+)`, 'm').exec(text)![1]);

/** What is done with the round in the store, by a process of its own. */
function inRound<T>(env: Readonly<Record<string, string | undefined>>, ...words: string[]): T {
  const found = spawnSync(
    process.execPath,
    ['--conditions=react-server', '--import', 'tsx', 'scripts/whole-build-round.ts', ...words],
    { env: env as NodeJS.ProcessEnv, encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'] },
  );
  if (found.status !== 0) throw new Error(`the round: ${words.join(' ')} ended with ${found.status}`);
  return JSON.parse(found.stdout.trim().split('\n').at(-1)!) as T;
}

export interface WholeBuildFigures {
  readonly imagesBytes: number;
  /** Peak of the server's resident memory; MB. */
  readonly peakMb: number;
  /** What the server read while it wrote, of what the package and its images are together. */
  readonly readRatio: number;
  readonly seconds: number;
}

/** @throws {Error} where the build is not written whole */
export async function measureWholeBuild(): Promise<WholeBuildFigures> {
  ensureBuilt();
  const dir = await mkdtemp(join(tmpdir(), 'eterno-bench-build-'));
  const env = environment(dir, { ETERNO_STAND_IN_SPEED: '400' });
  let standIn: ChildProcess | null = null;
  let server: ChildProcess | null = null;
  try {
    migrate(env);
    const roots = await makeStandIn(dir, SIZES);
    const path = join(dir, PACKAGE);
    const imagesBytes = await writePackage(path, roots);
    standIn = await startStandIn(env);
    const { round, version } = inRound<{ round: string; version: number }>(env, 'begin', path);
    const started = await startServerSomewhere(env);
    ({ server } = started);
    const pid = started.server.pid!;
    const before = numberAfter(procFile(pid, 'io'), 'rchar');
    const began = performance.now();
    const list = new TextEncoder().encode(JSON.stringify([{ name: PACKAGE, size: statSync(path).size }]));
    const url = `http://127.0.0.1:${started.port}`;
    const response = await fetch(`${url}/api/rounds/${round}/build?version=${version}&head=${list.length}`, {
      method: 'PUT',
      headers: { origin: url },
      body: new Blob([list, await openAsBlob(path)]),
    });
    if (!response.ok) throw new Error(await response.text());
    const seconds = (performance.now() - began) / 1000;
    const figures = {
      imagesBytes,
      peakMb: numberAfter(procFile(pid, 'status'), 'VmHWM') / 1024,
      readRatio: (numberAfter(procFile(pid, 'io'), 'rchar') - before) / (statSync(path).size + imagesBytes),
      seconds,
    };
    await stop(server);
    server = null;
    const { state, written } = inRound<{ state: string; written: number }>(env, 'ended', round);
    if (state !== 'done' || written !== Object.keys(SIZES).length)
      throw new Error(`the build was not written whole: ${state}, ${written} images`);
    return figures;
  } finally {
    if (server) await stop(server);
    if (standIn) await stop(standIn);
    rmSync(dir, { recursive: true, force: true });
  }
}
