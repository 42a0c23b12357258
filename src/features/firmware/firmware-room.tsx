'use client';
import { Button, Select } from 'antd';
import Link from 'next/link';
import { useMemo, useRef, useState } from 'react';
import { isForeign } from '@/core/fit/fit-package';
import type { PackageImage } from '@/core/packages/package-report';
import { EmptyNote } from '@/ui/empty-note';
import { ErrorNote } from '@/ui/error-note';
import { formatAge, formatBytes, formatSeconds } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { useRoomWhy } from '@/ui/frame/why';
import { HashText } from '@/ui/hash-text';
import type { PackageView } from '@/contracts/firmware-view';
import styles from './firmware.module.css';
import { FitTable } from './fit-table';
import { KitBody } from './kit-body';
import { PackageEvidence } from './package-evidence';
import { PackageWork } from './package-work';
import type { OpenPackage } from './use-package';
import { usePackage } from './use-package';
import { closestFit, verdictWords } from './verdict-words';

interface Props {
  readonly known: readonly PackageView[];
  readonly openRound: { readonly id: string; readonly handset: string } | null;
  readonly now: number;
}

export function FirmwareRoom({ known, openRound, now }: Props) {
  const state = usePackage();
  const { pack, work, read, error, setError, open, stop } = state;
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  useKeys(useMemo(() => [{ key: 'o', does: 'open a file', run: () => input.current?.click() }], []));
  useRoomWhy(useMemo(() => (pack ? <FirmwareWhy pack={pack} /> : null), [pack]));
  const choose = (files: FileList | null) => {
    const file = files?.[0];
    if (file) void open(file);
  };
  return (
    <div
      className={styles.room}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        choose(event.dataTransfer.files);
      }}
    >
      <div className={styles.shelf}>
        <label className={styles.drop} data-over={over}>
          <b>Drop a package here</b>
          <span className="soft small" style={{ display: 'block' }}>
            or press to choose one · read in place, never uploaded
          </span>
          <input
            ref={input}
            type="file"
            className="visually-hidden"
            aria-label="Choose a firmware package"
            onChange={(event) => choose(event.target.files)}
          />
        </label>
        {known.map((one) => (
          <div key={one.id} className={styles.pack} data-current={pack?.file.name === one.fileName}>
            <b>{KIND_WORDS[one.report.kind] ?? one.report.kind}</b>
            <div className="mono small">{one.report.build.buildId ?? one.fileName}</div>
            <div className="soft small">
              {one.report.build.fingerprint?.split('/')[1] ?? 'build not stated'} · {formatBytes(one.sizeBytes)} · {formatAge(one.openedAt, now)}
            </div>
          </div>
        ))}
        {known.length === 0 ? <p className="soft small">Packages you open are remembered here; the files stay where they are.</p> : null}
      </div>
      <div className={styles.body}>
        {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
        {work.kind === 'opening' ? <PackageWork work={work} read={read} sizeBytes={0} onStop={stop} /> : null}
        {pack?.report.kind === 'kit' ? (
          <KitBody key={pack.file.name} pack={pack} />
        ) : pack ? (
          <PackageBody {...state} pack={pack} openRound={openRound} />
        ) : work.kind === 'opening' || error ? null : (
          <EmptyNote title="No package is open">
            Choose a full update package, a bare payload, an image or a patch kit. Eterno reads its index, says which build it is and whom it fits,
            and takes out the image you need. Nothing is uploaded.
          </EmptyNote>
        )}
      </div>
    </div>
  );
}

const KIND_WORDS: Readonly<Record<string, string>> = {
  'update-zip': 'Update, full',
  'bare-image': 'One image',
  kit: 'Patch kit',
  unknown: 'Not recognised',
};

type BodyProps = ReturnType<typeof usePackage> & { readonly pack: OpenPackage; readonly openRound: Props['openRound'] };

function PackageBody({ pack, work, read, taken, take, stop, openRound }: BodyProps) {
  const closest = closestFit(pack.fits);
  const [chosen, setChosen] = useState(closest?.handsetId ?? null);
  const fit = pack.fits.find((one) => one.handsetId === chosen) ?? closest;
  const words = fit ? verdictWords(fit) : { title: 'No handset is on the bench to hold it against.', follows: '' };
  const busy = work.kind !== 'idle';
  const foreign = pack.fits.length > 0 && pack.fits.every((one) => isForeign(one.fit.verdict));
  const main = pack.report.images.find((image) => image.partition === 'init_boot') ?? pack.report.images.find((image) => image.partition === 'boot');
  const done = main ? taken.find((one) => one.partition === main.partition) : undefined;
  return (
    <>
      <div className={styles.verdict}>
        <div>
          <h1 className={fit && fit.fit.verdict !== 'exact' ? 'bad' : ''}>{words.title}</h1>
          <p className="soft">
            {words.follows} <span className="mono">{pack.file.name}</span>, {formatBytes(pack.file.size)}
          </p>
        </div>
        {done ? (
          <Link href={openRound ? `/rounds/${openRound.id}` : `/images/${done.sha256}`}>
            <Button type="primary">{openRound ? 'Back to the round' : `See ${done.partition}`}</Button>
          </Link>
        ) : main && !foreign ? (
          <Button
            type={fit?.fit.verdict === 'exact' ? 'primary' : 'default'}
            disabled={busy || main.needsSource}
            onClick={() => void take(main.partition)}
          >
            Take out {main.partition}
          </Button>
        ) : null}
      </div>
      {pack.fits.length > 1 ? (
        <Select
          aria-label="Handset to compare with"
          size="small"
          style={{ width: 320, marginTop: 8 }}
          value={fit?.handsetId}
          onChange={setChosen}
          options={pack.fits.map((one) => ({ value: one.handsetId, label: `${one.name}: ${one.fit.verdict}` }))}
        />
      ) : null}
      {fit ? <FitTable facts={fit.fit.facts} name={fit.name} /> : null}
      <PackageWork work={work} read={read} sizeBytes={pack.file.size} onStop={stop} />
      <Contents images={pack.report.images} taken={taken} busy={busy} foreign={foreign} onTake={(partition) => void take(partition)} />
      <h3 style={{ marginTop: 16 }}>What proves it</h3>
      <PackageEvidence report={pack.report} />
    </>
  );
}

interface ContentsProps {
  readonly images: readonly PackageImage[];
  readonly taken: ReturnType<typeof usePackage>['taken'];
  readonly busy: boolean;
  readonly foreign: boolean;
  readonly onTake: (partition: string) => void;
}

const TAKEABLE_BYTES = 512 * 1024 * 1024;

function Contents({ images, taken, busy, foreign, onTake }: ContentsProps) {
  const largest = images.reduce((most, image) => Math.max(most, image.size ?? 0), 1);
  if (images.length === 0) return null;
  return (
    <table className="ledger">
      <thead>
        <tr>
          <th>In it</th>
          <th>Size</th>
          <th style={{ width: '30%' }}>Beside the others</th>
          <th>SHA-256 it states</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {images.map((image) => {
          const done = taken.find((one) => one.partition === image.partition);
          return (
            <tr key={image.partition}>
              <td>
                <b>{image.partition}</b>
              </td>
              <td className="mono">{image.size === null ? 'told when unpacked' : formatBytes(image.size)}</td>
              <td>
                <div className={styles.bar}>
                  <i style={{ width: `${(100 * (image.size ?? 0)) / largest}%` }} />
                </div>
              </td>
              <td>{image.sha256 ? <HashText hash={image.sha256} /> : <span className="soft">none</span>}</td>
              <td style={{ textAlign: 'right' }}>
                {done ? (
                  <span className="small">
                    <Link href={`/images/${done.sha256}`}>in the vault</Link>, {done.verified ? 'hash verified' : 'no hash to verify by'},{' '}
                    {formatSeconds(done.seconds)}
                  </span>
                ) : foreign ? (
                  <span className="soft small">for none of your handsets</span>
                ) : image.needsSource ? (
                  <span className="soft small">needs the old image</span>
                ) : (
                  <Button size="small" disabled={busy || (image.size ?? 0) > TAKEABLE_BYTES} onClick={() => onTake(image.partition)}>
                    Take out
                  </Button>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function FirmwareWhy({ pack }: { pack: OpenPackage }) {
  return (
    <>
      <h2>Against every handset</h2>
      <table className="ledger">
        <tbody>
          {pack.fits.map((one) => (
            <tr key={one.handsetId}>
              <td>{one.name}</td>
              <td>
                <b>{one.fit.verdict}</b>
                <div className="soft small">{one.fit.reason}</div>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
