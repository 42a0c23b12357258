import 'server-only';
import { fitPackage } from '@/core/fit/fit-package';
import { packageClaim } from '@/core/fit/package-claim';
import type { PackageReport } from '@/core/packages/package-report';
import type { Evidence } from '@/contracts/round-view';
import type { HandsetRow, ImageRow, RoundRow, StepRow } from '../db/models';
import { findHandset } from '../repositories/handset-repository';
import { listImages, listPackages } from '../repositories/image-repository';
import { changeRound, listRounds, stepsOf } from '../repositories/round-repository';
import { now } from './clock';
import { installedOf, knownFacts } from './fact-service';
import { publish } from './message-bus';

export interface RoundImages {
  readonly stock: Readonly<ImageRow> | null;
  readonly patched: Readonly<ImageRow> | null;
}

/** The images in the vault that belong to a handset's installed build, by content. */
export function roundImages(images: readonly Readonly<ImageRow>[], fingerprint: string | null, partition: string | null): RoundImages {
  const own = images.filter((image) => fingerprint !== null && image.fingerprint === fingerprint && image.partition === partition);
  const stock = own.find((image) => image.role === 'stock') ?? null;
  const patched =
    own.find((image) => image.role === 'patched' && image.proof !== null && stock !== null && image.stockSha256 === stock.sha256) ?? null;
  return { stock, patched };
}

/** Looks at every open round and marks the steps done whose result the vault already holds. */
export async function settleRounds(): Promise<void> {
  for (const round of await listRounds()) if (round.state === 'open') await settleRound(round);
}

export async function settleRound(round: Readonly<RoundRow>): Promise<void> {
  const handset = await findHandset(round.handsetId);
  if (!handset) return;
  const steps = await stepsOf([round.id]);
  const changes: { id: string; change: Partial<StepRow> }[] = [];
  let last = steps.filter((step) => step.state === 'done').reduce((latest, step) => Math.max(latest, step.endedAt ?? 0), round.openedAt);
  for (const step of steps) {
    if (step.state === 'done') continue;
    const evidence = await evidenceFor(step.key, handset);
    if (!evidence) break;
    const endedAt = now();
    changes.push({ id: step.id, change: { state: 'done', startedAt: last, endedAt, actor: 'computer', evidence: JSON.stringify(evidence) } });
    last = endedAt;
  }
  if (changes.length === 0) return;
  await changeRound(round.id, round.version, {}, changes);
  publish({ type: 'round', roundId: round.id, version: round.version + 1 });
}

/** What the vault and the shelf of packages already prove of a step, or null. */
async function evidenceFor(key: string, handset: Readonly<HandsetRow>): Promise<Evidence[] | null> {
  const known = await knownFacts(handset.id);
  const facts = known.typed;
  const { stock, patched } = roundImages(await listImages(), facts.fingerprint, handset.rootPartition);
  switch (key) {
    case 'find-package': {
      if (stock) return [{ what: `the stock ${stock.partition} of this build is in the vault`, strength: 'strong' }];
      for (const { report, fileName } of await listPackages()) {
        if (fitPackage(packageClaim(JSON.parse(report) as PackageReport, fileName), installedOf(known)).verdict === 'exact')
          return [{ what: `${fileName} is exactly the installed build`, strength: 'strong' }];
      }
      return null;
    }
    case 'take-image':
      return stock && [{ what: `${stock.partition} ${stock.sha256} is in the vault`, strength: 'strong' }];
    case 'patch-image':
      return patched && [{ what: `patched by ${patched.kit}, proved again by the server: ${patched.sha256}`, strength: 'strong' }];
    default:
      return null;
  }
}
