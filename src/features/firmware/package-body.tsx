'use client';
import { Button } from 'antd';
import { Link } from '@/ui/link';
import { useState } from 'react';
import type { HandsetFit } from '@/contracts/firmware-view';
import { isForeign } from '@/core/fit/fit-package';
import { FitTable } from '@/ui/fit-table';
import { formatBytes } from '@/ui/format';
import styles from './firmware.module.css';
import { FitOverview } from './fit-overview';
import { IncrementalPanel } from './incremental-panel';
import { PackageContents } from './package-contents';
import { PackageEvidence } from './package-evidence';
import { PackageWork } from './package-work';
import type { FirmwareClient } from '@/workers/firmware/firmware-client';
import { PatchedArchive } from './patched-archive';
import { SetParts } from './set-parts';
import { KIND_WORDS } from './role-words';
import type { OpenPackage, TakenImage, usePackage } from './use-package';
import { closestFit, verdictWords } from './verdict-words';
import { imagesWords, leftToTake, notToTake, takesWords } from './wanted-words';

type Props = ReturnType<typeof usePackage> & {
  readonly pack: OpenPackage;
  readonly openRound: { readonly id: string; readonly handset: string } | null;
  readonly client: () => FirmwareClient;
  /** Opens the set again with one of its region parts only. */
  readonly onRegion: ((file: string) => void) | null;
};

/** The image that carries root as a rule, and whether it can be taken out now. */
function mainImage({ report, pristine }: OpenPackage) {
  const named = (partition: string) => report.images.find((image) => image.partition === partition);
  const image = named('init_boot') ?? named('boot');
  if (!image) return null;
  const sourceHere = pristine.some((one) => one.partition === image.partition && one.inVault);
  return { image, ready: image.unsupported.length === 0 && (!image.needsSource || sourceHere) };
}

const historyOf = (fit: HandsetFit | null) => fit?.history ?? null;
const isForeignToAll = ({ fits }: OpenPackage) =>
  fits.length > 0 && fits.every((one) => isForeign(one.fit.verdict));

/**
 * One opened package: the verdict first, then the facts behind it, what is in it, and the one thing to do.
 */
export function PackageBody({ pack, work, read, taken, take, stop, openRound, client, onRegion }: Props) {
  const { report } = pack;
  const closest = closestFit(pack.fits);
  const [chosen, setChosen] = useState(closest?.handsetId ?? null);
  const fit = pack.fits.find((one) => one.handsetId === chosen) ?? closest;
  const busy = work.kind !== 'idle';
  const holdsImages = report.images.length > 0;
  return (
    <>
      <div className={styles.verdict}>
        <Verdict pack={pack} fit={fit} taken={busy ? [] : taken} />
        <MainButton pack={pack} fit={fit} busy={busy} taken={taken} take={take} openRound={openRound} />
      </div>
      <PackageWork work={work} read={read} sizeBytes={pack.sizeBytes} onStop={stop} />
      {report.incremental && report.images.some((image) => image.needsSource) ? (
        <IncrementalPanel
          pack={pack}
          busy={busy}
          taken={taken}
          onTake={(partition, old) => void take([partition], old)}
        />
      ) : null}
      {pack.fits.length > 1 && holdsImages ? (
        <FitOverview fits={pack.fits} chosen={fit?.handsetId ?? null} onChoose={setChosen} />
      ) : null}
      {fit && holdsImages ? <FitTable facts={fit.fit.facts} name={fit.name} /> : null}
      <SetParts set={report.set} history={historyOf(fit)} onRegion={onRegion} />
      <PatchedArchive report={report} contents={pack.contents} busy={busy} client={client} />
      <PackageContents
        pack={pack}
        taken={taken}
        busy={busy}
        foreign={isForeignToAll(pack)}
        onTake={(partitions) => void take(partitions)}
      />
      <h3 style={{ marginTop: 16 }}>What proves it</h3>
      <PackageEvidence pack={pack} />
    </>
  );
}

interface VerdictProps {
  readonly pack: OpenPackage;
  readonly fit: HandsetFit | null;
  readonly taken: readonly TakenImage[];
}

function Verdict({ pack, fit, taken }: VerdictProps) {
  const { report } = pack;
  const words =
    report.images.length === 0
      ? nothingIn(pack)
      : pack.signs && pack.signs.times > 0
        ? patchedWords(report.images[0]!.partition, pack.signs)
        : fit
          ? verdictWords(fit)
          : { title: 'No handset is on the bench to hold it against.', follows: '' };
  return (
    <div>
      <h1 className={fit?.fit.verdict === 'other variant' && report.images.length > 0 ? 'bad' : ''}>
        {words.title}
      </h1>
      <p className="soft">
        {pack.wanted ? takesWords(pack.wanted, report.images) : words.follows} It is{' '}
        {report.incremental ? 'the incremental' : 'the'} {KIND_WORDS[report.kind]}{' '}
        <span className="mono">{pack.fileNames.join(', ')}</span>, {formatBytes(pack.sizeBytes)}.
      </p>
      {taken.length > 0 ? (
        <p role="status" className={styles.taken}>
          <b>
            ✓ {imagesWords(taken.map(({ partition }) => partition))} {taken.length === 1 ? 'is' : 'are'} in
            the vault
          </b>
          {taken.every(({ verified }) => verified) ? ', verified by hash.' : ', without a hash to verify by.'}
        </p>
      ) : null}
    </div>
  );
}

interface MainButtonProps extends VerdictProps {
  readonly busy: boolean;
  readonly take: Props['take'];
  readonly openRound: Props['openRound'];
}

/** The one thing to do: take the image out, then on with it. */
function MainButton(props: MainButtonProps) {
  const { pack, fit, busy, taken, take, openRound } = props;
  if (pack.wanted) return <RoundButton {...props} wanted={pack.wanted} />;
  const main = mainImage(pack);
  if (!main) return null;
  const { image, ready } = main;
  const done = taken.find((one) => one.partition === image.partition);
  if (done)
    return (
      <Link href={openRound ? `/rounds/${openRound.id}` : `/images/${done.sha256}`}>
        <Button type="primary">{openRound ? 'Back to the round' : `See ${done.partition}`}</Button>
      </Link>
    );
  if (isForeignToAll(pack) || !ready) return null;
  const patched = (pack.signs?.times ?? 0) > 0;
  return (
    <Button
      type={fit?.fit.verdict === 'exact' || patched ? 'primary' : 'default'}
      disabled={busy}
      onClick={() => void take([image.partition])}
    >
      {patched ? 'Keep' : image.needsSource ? 'Make' : 'Take out'} {image.partition}
    </Button>
  );
}

type RoundButtonProps = Pick<MainButtonProps, 'pack' | 'busy' | 'taken' | 'take'> & {
  readonly wanted: NonNullable<OpenPackage['wanted']>;
};

/** What a round needs of the package; when all that can be taken is there, back to it. */
function RoundButton({ pack, busy, taken, take, wanted }: RoundButtonProps) {
  const { images } = pack.report;
  const left = leftToTake(wanted, images, taken).map(({ partition }) => partition);
  if (left.length > 0)
    return (
      <Button type="primary" disabled={busy} onClick={() => void take(left)}>
        {left.length === 1
          ? `Take out ${left[0]}`
          : `Take out the ${left.length} images that the round needs`}
      </Button>
    );
  const missing = notToTake(wanted, images).length;
  return (
    <Link href={`/rounds/${wanted.roundId}`}>
      <Button type={missing > 0 ? 'default' : 'primary'}>
        {missing > 0 ? `Back to the round, ${missing} still missing` : 'Back to the round'}
      </Button>
    </Link>
  );
}

/** An image that was patched is told as that first: whatever build it names, it is not the maker's own. */
function patchedWords(partition: string, { by, times }: NonNullable<OpenPackage['signs']>) {
  const who = by.length === 0 ? '' : ` by ${by.join(', then ')}`;
  return {
    title:
      times === 1
        ? `A patched ${partition}${by.length === 0 ? '' : ','}${who}.`
        : `${partition}, patched ${times} times${who}.`,
    follows:
      times === 1
        ? 'Keep it in the vault: Eterno holds it against the stock image of its build before anything writes it.'
        : 'A patched image is never patched again. Patch the stock image once instead.',
  };
}

/** What to say of a file that holds no stock image. */
function nothingIn({ report }: OpenPackage): { title: string; follows: string } {
  if (report.kind === 'module-zip')
    return { title: 'A module: it is loaded by root, never written to a partition.', follows: '' };
  return { title: 'No image is in it.', follows: report.warnings[0] ?? '' };
}
