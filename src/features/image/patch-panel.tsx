'use client';
import { Button, Progress, Select } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import type { ErrorData } from '@/core/errors';
import { EternoError, toEternoError } from '@/core/errors';
import type { Progress as Done } from '@/core/ports';
import type { ImageSummary, KitView } from '@/contracts/image-view';
import { ErrorNote } from '@/ui/error-note';
import { fetchFromVault, sendImage } from '@/ui/send';
import { formatSeconds } from '@/ui/format';
import type { OptionValues } from '@/core/patch/steps-that-run';
import type { PatchChoice, PatchedInWorker } from '@/workers/patch/patch-client';
import { PatchClient } from '@/workers/patch/patch-client';
import { ChangesList } from './changes-list';
import styles from './image.module.css';
import { KitOptions } from './kit-options';
import { ProofList } from './proof-list';
import type { useImage } from './use-image';

interface Props extends Pick<ReturnType<typeof useImage>, 'other' | 'compare' | 'unfold'> {
  readonly image: ImageSummary;
  readonly kits: readonly KitView[];
  readonly openRound: { readonly id: string; readonly handset: string } | null;
}

type Patched = Omit<PatchedInWorker, 'image'> & { readonly seconds: number };
type Avb = 'carry' | 'rehash';

/** A patch in a worker of its own, then into the vault. */
function usePatch(stock: string, onKept: (sha256: string) => void) {
  const router = useRouter();
  const [progress, setProgress] = useState<Done | null>(null);
  const [patched, setPatched] = useState<Patched | null>(null);
  const [kept, setKept] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const client = useRef<PatchClient | null>(null);
  useEffect(() => () => client.current?.end(), []);

  const run = async (kit: string, { avb, gzipInstead, options }: PatchChoice) => {
    const mine = new PatchClient();
    client.current = mine;
    setError(null);
    setPatched(null);
    setKept(false);
    setProgress({ phase: 'read', doneBytes: 0, totalBytes: 1 });
    const began = performance.now();
    try {
      const result = await mine.patch(
        await fetchFromVault('images', stock),
        await fetchFromVault('kits', kit),
        { avb, gzipInstead, options },
        setProgress,
      );
      if (!result.ok) throw EternoError.fromData(result.error);
      const { image, ...rest } = result.value;
      setPatched({ ...rest, seconds: (performance.now() - began) / 1000 });
      await sendImage(rest.sha256, image, {
        from: 'patch',
        stock,
        kit,
        avb,
        ...(gzipInstead ? { ramdisk: 'gzip' } : {}),
        ...(Object.keys(options).length > 0 ? { options: JSON.stringify(options) } : {}),
      });
      setKept(true);
      onKept(rest.sha256);
      router.refresh();
    } catch (thrown) {
      if (client.current === mine) setError(toEternoError(thrown, 'io').toData());
    } finally {
      mine.end();
      setProgress(null);
    }
  };
  const stop = () => {
    client.current?.end();
    client.current = null;
    setProgress(null);
    setError(new EternoError('cancelled', 'The patch was stopped.').toData());
  };
  return { progress, patched, kept, error, dismiss: () => setError(null), run, stop };
}

/**
 * Patches a stock image in a worker, shows the proof line by line, and hands it to the vault, where the
 * server proves it again.
 */
export function PatchPanel({ image, kits, openRound, other, compare, unfold }: Props) {
  const { sha256, partition } = image;
  const usable = kits.filter((kit) => kit.partitions === null || kit.partitions.includes(partition));
  const [kit, setKit] = useState(usable[0]?.sha256 ?? null);
  const [avb, setAvb] = useState<Avb>('carry');
  const state = usePatch(sha256, (made) => void compare('the patched image', made, { folded: true }));
  const { progress, patched, error } = state;
  const [chosen, setChosen] = useState<OptionValues>(usable[0]?.chosen ?? {});
  const declared = usable.find((one) => one.sha256 === kit)?.options ?? {};
  const run = (gzipInstead = false) =>
    kit === null ? undefined : void state.run(kit, { avb, gzipInstead, options: chosen });

  if (usable.length === 0) return <p className="soft">No kit in the vault is for {partition}.</p>;
  return (
    <section className={styles.patch} aria-label="Patch">
      <div className={styles.patchHead}>
        <span>
          Patch it with{' '}
          <Select
            aria-label="Kit"
            size="small"
            value={kit}
            onChange={(wanted: string) => {
              setKit(wanted);
              setChosen(usable.find((one) => one.sha256 === wanted)?.chosen ?? {});
            }}
            options={usable.map((one) => ({
              value: one.sha256,
              label: `${one.name} ${one.version}, ${one.channel}`,
            }))}
          />
          , its verified-boot data{' '}
          <Select
            aria-label="Verified-boot data"
            size="small"
            value={avb}
            onChange={setAvb}
            options={[
              { value: 'carry', label: 'carried as it is' },
              { value: 'rehash', label: 'brought up to date, unsigned' },
            ]}
          />
        </span>
        <PatchButton {...state} partition={partition} openRound={openRound} onRun={() => run()} />
      </div>
      <KitOptions options={declared} chosen={chosen} onChange={setChosen} />
      {progress ? (
        <Progress
          percent={Math.round((100 * progress.doneBytes) / progress.totalBytes)}
          showInfo={false}
          size="small"
          aria-label={`Patching: ${progress.phase}`}
        />
      ) : null}
      {error ? <ErrorNote error={error} onDismiss={state.dismiss} /> : null}
      {error?.details?.['gzipInstead'] ? (
        <p>
          Only where this handset’s kernel unpacks gzip: otherwise it will not start, and the stock image has
          to be put back.{' '}
          <Button size="small" onClick={() => run(true)}>
            Pack it as gzip
          </Button>
        </p>
      ) : null}
      {patched ? <PatchProof patched={patched} kept={state.kept} other={other} unfold={unfold} /> : null}
    </section>
  );
}

interface PatchButtonProps extends Pick<
  ReturnType<typeof usePatch>,
  'progress' | 'patched' | 'kept' | 'stop'
> {
  readonly partition: string;
  readonly openRound: Props['openRound'];
  readonly onRun: () => void;
}

function PatchButton({ progress, patched, kept, stop, partition, openRound, onRun }: PatchButtonProps) {
  if (progress) return <Button onClick={stop}>Stop</Button>;
  if (kept && openRound)
    return (
      <Link href={`/rounds/${openRound.id}`}>
        <Button type="primary">Back to the round</Button>
      </Link>
    );
  if (kept && patched)
    return (
      <Link href={`/images/${patched.sha256}`}>
        <Button type="primary">See the patched image</Button>
      </Link>
    );
  return (
    <Button type="primary" onClick={onRun}>
      Patch {partition}
    </Button>
  );
}

interface PatchProofProps extends Pick<Props, 'other' | 'unfold'> {
  readonly patched: Patched;
  readonly kept: boolean;
}

const PatchProof = ({ patched, kept, other, unfold }: PatchProofProps) => (
  <div style={{ marginTop: 10 }}>
    <b>
      {patched.proof.filter((line) => line.ok).length} of {patched.proof.length} checks hold
    </b>{' '}
    <span className="soft">
      in {formatSeconds(patched.seconds)};{' '}
      {kept ? 'the server proved it again, and it is in the vault' : 'the server is proving it again'}
    </span>
    <div className={styles.proved}>
      <ProofList proof={patched.proof} />
      {other?.report.sha256 === patched.sha256 ? <ChangesList other={other} unfold={unfold} /> : null}
    </div>
    {patched.notes.map((note) => (
      <p key={note} className="soft small">
        {note}
      </p>
    ))}
  </div>
);
