import 'server-only';
import type { FamilyView } from '@/contracts/image-view';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { FamilyHandset, FamilyImage, Origin } from '@/core/lineage/families';
import { familiesOf, placesOf } from '@/core/lineage/families';
import { guardiansOf } from '@/core/vault/way-back';
import { guardingWords } from '@/core/words/way-back';
import type { ImageOrigin } from '../db/decode';
import { listOrigins } from '../repositories/image-repository';
import { readAllSubjects, readBench } from './bench-reading';
import { patchedFrom } from './handset-service';
import { imageSummary, originView } from './image-view';
import { guardedHandsets } from './vault-guard';

const KINDS: Readonly<Record<string, Origin['kind']>> = {
  package: 'package',
  patch: 'patch',
  rebuilt: 'rebuilt',
  'read-back': 'read-back',
};

const originOf = ({ kind, detail, at }: ImageOrigin): Origin => ({
  kind: KINDS[kind] ?? 'file',
  name: detail.package ?? detail.name ?? null,
  verified: detail.verified === true,
  options: detail.options ?? {},
  at,
});

/** What the Images room shows: build by build, where each image came from, where it lies, what needs it. */
export async function imageFamilies(): Promise<FamilyView[]> {
  const bench = await readBench();
  const guarded = await guardedHandsets(bench);
  const origins = await listOrigins();
  const handsets = (await readAllSubjects()).map(({ handset, facts, cells }): FamilyHandset => ({
    name: handset.name,
    fingerprint: facts.typed.fingerprint,
    cells,
  }));
  const ofImage = (sha256: string) => origins.filter((origin) => origin.sha256 === sha256);
  const known = bench.images.map(
    ({ sha256, partition, role, fingerprint, patchLevel, kit, stockSha256 }): FamilyImage => ({
      ...{ sha256, partition, role, fingerprint, patchLevel, kit, stockSha256 },
      origins: ofImage(sha256).map(originOf),
    }),
  );
  return familiesOf(known, handsets).map(({ key, fingerprint, runsOn, roots, images }) => {
    const parts = fingerprint === null ? null : splitFingerprint(fingerprint);
    return {
      key,
      build: parts?.id ?? fingerprint,
      product: parts?.product ?? null,
      runsOn,
      roots,
      images: images.map(({ sha256 }) => {
        const image = bench.images.find((one) => one.sha256 === sha256)!;
        const guardians = guardiansOf(
          { ...image, patchedFromIt: patchedFrom(bench.images, sha256) },
          guarded,
        );
        return {
          ...imageSummary(image),
          origins: ofImage(sha256).map(originView),
          places: placesOf(sha256, handsets),
          neededFor: guardians.map(guardingWords)[0] ?? null,
          wayBackOf: guardians.filter(({ code }) => code === 'way-back').map(({ handset }) => handset),
        };
      }),
    };
  });
}
