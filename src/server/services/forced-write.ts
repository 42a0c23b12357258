import 'server-only';
import { stockImageOf } from '@/core/bench/root-image';
import { EternoError } from '@/core/errors';
import { slotOf, unslotted } from '@/core/text/partition-names';
import { judgeWrite } from '@/core/judge/judge-write';
import { weighWrite } from '@/core/judge/weigh-write';
import { isSlotted, writeTargetOf } from '@/core/judge/write-target';
import { writeSawWords } from '@/core/words/write';
import { nodePorts } from '@/platform/node/node-ports';
import { openInVault } from '../vault/vault';
import type { KnownHandset } from './bench-reading';
import { readBench, readSubjects } from './bench-reading';
import { forceImage } from './stand-in-service';

/* What a stand-in's panel puts on it past every check, and what the judgement of a write says to it. */

const PURPOSE = { patched: 'root', recovery: 'recovery', stock: 'stock', unknown: 'stock' } as const;

/** What is wrong with writing an image there, each in one sentence; empty where nothing is known to be wrong. */
async function wrongWith({ facts }: KnownHandset, sha256: string, name: string): Promise<string[]> {
  const bench = await readBench();
  const row = bench.images.find((image) => image.sha256 === sha256);
  if (!row) throw new EternoError('not-found', 'This image is not in the vault.');
  const partition = unslotted(name);
  const fuse = facts.value('antiRollback');
  const target = writeTargetOf(
    {
      ...facts.typed,
      mode: 'bootloader',
      snapshot: facts.value('snapshot'),
      fuse: fuse === null ? null : Number(fuse),
    },
    partition,
    isSlotted(facts.typed, partition) === false ? null : slotOf(name),
  );
  const purpose = PURPOSE[row.role];
  const stockOf =
    row.role === 'stock' ? sha256 : (row.stockSha256 ?? stockOn(target.slotBuild)?.sha256 ?? null);
  const image = await openInVault('images', sha256);
  const stock = stockOf === null ? null : await openInVault('images', stockOf).catch(() => null);
  try {
    const weighed = await weighWrite(
      { image, stock, package: null, kit: null },
      { purpose, target },
      nodePorts,
    );
    return judgeWrite({ purpose, target, ...weighed }).checks.flatMap(({ holds, saw }) =>
      holds === false ? [writeSawWords(saw)] : [],
    );
  } finally {
    await image.close();
    await stock?.close();
  }

  function stockOn(build: string | null) {
    return build === null ? null : stockImageOf(bench, partition, build);
  }
}

/**
 * Puts an image of the vault on a stand-in past every check.
 * @returns why no round would have written it, each in one sentence
 * @throws {EternoError} `link-lost`, `not-found`
 */
export async function forceJudged(profile: string, sha256: string, name: string): Promise<string[]> {
  const subject = (await readSubjects()).find(({ handset }) => handset.profile === profile);
  const wrong = subject ? await wrongWith(subject, sha256, name) : [];
  await forceImage(profile, sha256, name);
  return wrong;
}
