import 'server-only';
import { rootAppJudged } from '@/core/bench/root-app-judged';
import { rootAppWords } from '@/core/words/root-app';
import { lackingOf } from '@/core/backups/backup-set';
import { now } from './clock';
import type { KeptImage } from '@/core/bench/bench';
import type { HandsetDetail, PackageFit, RecordsView, ShelvedImage } from '@/contracts/handset-view';
import { downgradeEdge } from '@/core/feasibility/floors';
import { fitPackage } from '@/core/fit/fit-package';
import { packageClaim } from '@/core/fit/package-claim';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { judgeLineage } from '@/core/lineage/judge-lineage';
import { guardiansOf } from '@/core/vault/way-back';
import { listHandsets, readSecret } from '../repositories/handset-repository';
import { backupsOf, dependenciesOf, listEdges } from '../repositories/record-repository';
import { benchRow } from './bench-service';
import { needHandset, readBench, readSubject } from './bench-reading';
import { factViews, installedOf, unreadLines } from './fact-service';
import { imageSummary } from './image-view';
import type { Bench } from '@/core/bench/bench';
import type { KnownHandset } from './bench-reading';
import { kitShelf, recoveryShelf } from '@/server/services/shelf-views';
import { dataFor, feasibilityOf, floorsFor, recoveryOf, rootOf, slotsToWrite } from '@/core/bench/judgements';
import { slotViews } from './slot-service';
import { sheetView } from './way-service';
import { guardedHandsets } from './vault-guard';

const isOf = (fingerprint: string | null, device: string | null) =>
  fingerprint !== null && splitFingerprint(fingerprint)?.device === device;

/** Images of the vault that are of this handset's code name, or lie on it. */
async function shelfOf(
  subject: KnownHandset,
  bench: Bench,
  partition: string | null,
): Promise<ShelvedImage[]> {
  const own = bench.images.filter(
    (image) =>
      isOf(image.fingerprint, subject.facts.typed.device) ||
      subject.cells.some((cell) => cell.sha256 === image.sha256),
  );
  const guarded = await guardedHandsets(bench);
  return own.map((image) => {
    const { fingerprint, patchLevel } = image;
    const { says, notes } = judgeLineage(image, {
      fileName: null,
      installedFingerprint: subject.facts.typed.fingerprint,
      wantedPartition: partition,
      known: bench.images,
    });
    return {
      ...imageSummary(image),
      fit: fitPackage(
        { fingerprint, patchLevel, incrementalVersion: null, devices: [], from: 'the image’s own data' },
        installedOf(subject.facts),
      ),
      lineage: { says, notes },
      guarded:
        guardiansOf({ ...image, patchedFromIt: patchedFrom(bench.images, image.sha256) }, guarded).length > 0,
    };
  });
}

export const patchedFrom = (images: readonly KeptImage[], sha256: string) =>
  images.filter((image) => image.stockSha256 === sha256).map((image) => image.sha256);

function packageFits({ facts }: KnownHandset, { packages }: Bench): PackageFit[] {
  return packages.map(({ id, fileName, sizeBytes, report }) => ({
    id,
    fileName,
    sizeBytes,
    incremental: report.incremental,
    fit: fitPackage(packageClaim(report, fileName), installedOf(facts)),
  }));
}

/** Private values by name, with their last characters at most. */
async function secretsOf(handsetId: string): Promise<RecordsView['secrets']> {
  const out = [];
  for (const name of ['serial', 'token', 'code']) {
    const value = await readSecret(handsetId, name);
    if (value !== null) out.push({ name, ending: name === 'serial' ? value.slice(-4) : '' });
  }
  return out;
}

async function recordsOf({ handset, facts, history }: KnownHandset): Promise<RecordsView> {
  const told = (await listEdges())
    .filter((edge) => edge.device === facts.typed.device)
    .map(({ allowed, ...edge }) => ({ ...edge, allowed: allowed === 'yes' }));
  const pairs = new Map(told.map((edge) => [`${edge.fromBuild} ${edge.toBuild}`, edge]));
  const edges = [...pairs.values()].map(({ fromBuild, toBuild }) => downgradeEdge(told, fromBuild, toBuild)!);
  return {
    backups: (await backupsOf(handset.id)).map(({ what, place, note, at, parts }) => ({
      what,
      place,
      note,
      at,
      lacks: parts && lackingOf(what, parts),
    })),
    clocks: history.openClocks.map(({ kind, endsAt, note }) => ({ kind, endsAt, note })),
    dependencies: (await dependenciesOf(handset.id)).map(({ name, effect, needed, note }) => ({
      name,
      effect,
      needed: needed === 'yes',
      note,
    })),
    edges: edges.map(({ fromBuild, toBuild, allowed, note }) => ({ fromBuild, toBuild, allowed, note })),
    secrets: await secretsOf(handset.id),
  };
}

function rootAppView(
  subject: KnownHandset,
  bench: Bench,
  partition: string | null,
): HandsetDetail['rootApp'] {
  const judged = rootAppJudged(subject, bench, partition);
  return judged && { fits: judged.fits, says: judged.findings.map(rootAppWords) };
}

/** Everything the Handset room shows. @throws {EternoError} `not-found` */
export async function handsetDetail(id: string): Promise<HandsetDetail> {
  const [subject, bench] = [await readSubject(await needHandset(id)), await readBench()];
  const names = new Map((await listHandsets()).map((handset) => [handset.id, handset.name]));
  const root = rootOf(subject, bench);
  const records = await recordsOf(subject);
  const shelf = await shelfOf(subject, bench, root.partition);
  const lastBackup = records.backups.find((backup) => backup.place === 'off the handset');
  return {
    ...benchRow(subject, bench),
    facts: factViews(subject.facts),
    known: subject.facts.typed,
    unread: await unreadLines(id),
    rootPartition: root,
    recoveryHome: recoveryOf(subject, bench, root),
    writeSlots: slotsToWrite(subject, bench, root),
    slots: slotViews(subject.cells, bench.images),
    shelf,
    otherImages: bench.images.length - shelf.length,
    packages: packageFits(subject, bench),
    kits: kitShelf(bench, names),
    recoveries: recoveryShelf(bench, names),
    feasibility: feasibilityOf(
      subject,
      bench,
      root,
      {
        clocks: subject.history.openClocks,
        dependencies: records.dependencies,
        lastBackupAt: lastBackup?.at ?? null,
        backupLacks: lastBackup?.lacks ?? null,
      },
      now(),
    ),
    floors: floorsFor(subject, bench, root),
    data: dataFor(subject, bench, root),
    records,
    rootApp: rootAppView(subject, bench, root.partition),
    sheet: sheetView(subject),
    rounds: subject.history.rounds.map(({ id: roundId, title, state, openedAt, closedAt }) => ({
      id: roundId,
      title,
      state,
      openedAt,
      closedAt,
    })),
    serialEnd: records.secrets.find((secret) => secret.name === 'serial')?.ending ?? null,
  };
}
