'use client';
import { Button, Tabs } from 'antd';
import { Link } from '@/ui/link';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { ImageDetail, ImageSummary, KitView } from '@/contracts/image-view';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { roleWords } from '@/ui/role-words';
import { HashText } from '@/ui/hash-text';
import { ByteMap } from './byte-map';
import { ChangesList } from './changes-list';
import { BringPatched, CompareChooser, ComparePanel, labelOf } from './compare-panel';
import { EntryList } from './entry-list';
import type { EntryRow } from '@/core/packages/entry-rows';
import { EntryViewer } from './entry-viewer';
import styles from './image.module.css';
import { AvbWords, HeaderWords, OriginChain } from './image-words';
import { KeptJudgement } from './kept-judgement';
import { PatchPanel } from './patch-panel';
import { ProofList } from './proof-list';
import { RecoveryPanel } from './recovery-panel';
import { useImage } from './use-image';
import { LINEAGE_NOTE_TITLES, lineageNoteWords } from '@/core/words/lineage';

interface Props {
  readonly image: ImageDetail;
  readonly kits: readonly KitView[];
  /** The other images of the vault, those of the same partition first. */
  readonly others: readonly ImageSummary[];
  readonly openRound: { readonly id: string; readonly handset: string } | null;
}

const title = (image: ImageDetail) => {
  const build = image.build ?? 'a build it does not name';
  if (image.role === 'stock') return `Stock ${image.partition} of ${build}`;
  if (image.role === 'patched') {
    const often = (image.judged?.times ?? 1) > 1 ? `patched ${image.judged!.times} times` : roleWords(image);
    return `${image.partition} of ${build}, ${often}`;
  }
  if (image.recoveryName !== null) return `${image.partition} of ${build} with ${image.recoveryName} in it`;
  return `${image.partition} of ${build}, origin not proved`;
};

export function ImageRoom({ image, kits, others, openRound }: Props) {
  const state = useImage(image.sha256, image.role === 'stock' ? 'stock' : 'made', kits);
  const { opened, other, error, setError } = state;
  const report = opened?.report ?? image.report;
  useStockBeside(image, others, state);
  const download = useRef<HTMLAnchorElement>(null);
  useKeys(useMemo(() => [{ key: 'd', does: 'download', run: () => download.current?.click() }], []));
  return (
    <div className={styles.room}>
      <div className={styles.head}>
        <div>
          <h1>{title(image)}</h1>
          <span className="soft">
            {image.product ?? 'variant not named'} · {formatBytes(image.sizeBytes)} · SHA-256{' '}
            <HashText hash={image.sha256} />
          </span>
        </div>
        <div className={styles.headTools}>
          <CompareChooser {...state} others={others} before={image.before} />
          <Button ref={download} href={`/api/images/${image.sha256}`} download size="small">
            Download
          </Button>
        </div>
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      <Making state={state} image={image} kits={kits} openRound={openRound} />
      <KeptJudgement image={image} openRound={openRound} />
      {image.lineage.notes.map((note) => (
        <p key={note.code} className="bad" style={{ marginTop: 8 }}>
          <b>{LINEAGE_NOTE_TITLES[note.code]}</b>: {lineageNoteWords(note)}
        </p>
      ))}
      {image.role === 'patched' && !image.judged ? <MadeFrom image={image} openRound={openRound} /> : null}
      {other && !other.folded ? (
        <ComparePanel
          key={other.report.sha256}
          {...state}
          other={other}
          sha256={image.sha256}
          stock={image.role === 'stock'}
        />
      ) : null}
      {opened ? (
        <ByteMap regions={opened.regions} size={report.size} />
      ) : (
        <div className={styles.mapWaiting} aria-live="polite">
          {error ? '' : 'Taking the image apart'}
        </div>
      )}
      <div className={styles.columns}>
        <div>
          <Facts {...state} image={image} report={report} full={opened !== null} />
        </div>
        <div>
          <h2>{ramdiskTitle(report)}</h2>
          {opened ? <Entries state={state} entries={opened.entries} /> : null}
        </div>
      </div>
    </div>
  );
}

/** What can be made of it: patched, with a recovery in it, or held against what was patched elsewhere. */
function Making({
  state,
  image,
  kits,
  openRound,
}: Omit<Props, 'others'> & { readonly state: ReturnType<typeof useImage> }) {
  const isStock = image.role === 'stock';
  const ramdisk = (state.opened?.report ?? image.report).ramdisk;
  return (
    <>
      <RecoveryPanel image={image} openRound={openRound} />
      {(isStock || image.recoveryName !== null) && ramdisk ? (
        <PatchPanel {...state} image={image} kits={kits} openRound={openRound} />
      ) : null}
      {isStock && ramdisk ? <BringPatched {...state} /> : null}
    </>
  );
}

/** Its stock image, where that is in the vault, is held against a patched one: the list of what changed. */
function useStockBeside(
  image: ImageDetail,
  others: readonly ImageSummary[],
  { opened, compare }: ReturnType<typeof useImage>,
) {
  const stock = image.proof ? others.find(({ sha256 }) => sha256 === image.stockSha256) : undefined;
  const [hash, label] = stock ? [stock.sha256, labelOf(stock)] : [null, ''];
  const isOpen = opened !== null;
  const begun = useRef<string | null>(null);
  useEffect(() => {
    if (!isOpen || hash === null || begun.current === hash) return;
    begun.current = hash;
    void compare(label, hash, { folded: true });
  }, [isOpen, hash, label, compare]);
}

interface FactsProps extends Pick<ReturnType<typeof useImage>, 'other' | 'unfold'> {
  readonly image: ImageDetail;
  readonly report: ImageDetail['report'];
  /** The image was read whole, not only its report. */
  readonly full: boolean;
}

function Facts({ image, report, full, other, unfold }: FactsProps) {
  const against = other && other.report.sha256 === image.stockSha256 ? other : null;
  const facts = [
    { key: 'header', label: 'Header', children: <HeaderWords report={report} /> },
    { key: 'avb', label: 'Verified boot', children: <AvbWords avb={report.avb} full={full} /> },
    { key: 'sections', label: 'Sections', children: <Sections report={report} /> },
    { key: 'origin', label: 'Where it came from', children: <OriginChain image={image} /> },
    ...(image.proof
      ? [
          {
            key: 'proof',
            label: 'Proof',
            children: (
              <>
                <ProofList proof={image.proof} />
                {against ? <ChangesList other={against} unfold={unfold} /> : null}
              </>
            ),
          },
        ]
      : []),
  ];
  return <Tabs size="small" items={facts} defaultActiveKey={image.proof ? 'proof' : 'header'} />;
}

function MadeFrom({ image, openRound }: Pick<Props, 'image' | 'openRound'>) {
  return (
    <p style={{ marginTop: 10 }}>
      Made from the stock image{' '}
      {image.stockSha256 ? <HashText hash={image.stockSha256} /> : 'it does not name'}. A patched image is
      never patched again.{' '}
      {openRound ? <Link href={`/rounds/${openRound.id}`}>To the round of {openRound.handset}</Link> : null}
    </p>
  );
}

interface EntriesProps {
  readonly state: ReturnType<typeof useImage>;
  /** How many there are; null in an image without a ramdisk. */
  readonly entries: number | null;
}

function Entries({ state, entries }: EntriesProps) {
  const [chosen, setChosen] = useState<EntryRow | null>(null);
  if (entries === null) return <p className="soft">Root cannot sit in this image.</p>;
  return (
    <>
      <EntryList rows={state.rows} total={entries} chosen={chosen?.key ?? null} onChoose={setChosen} />
      {chosen ? (
        <EntryViewer key={chosen.key} row={chosen} read={state.read} onClose={() => setChosen(null)} />
      ) : null}
    </>
  );
}

function Sections({ report }: { report: ImageDetail['report'] }) {
  return (
    <table className="ledger">
      <thead>
        <tr>
          <th>Section</th>
          <th className="num">From byte</th>
          <th className="num">Bytes</th>
          <th>SHA-256</th>
        </tr>
      </thead>
      <tbody>
        {report.sections.map((section) => (
          <tr key={section.name}>
            <td>{section.name}</td>
            <td className="num mono">{section.offset.toLocaleString('en')}</td>
            <td className="num mono">{section.size.toLocaleString('en')}</td>
            <td>
              <HashText hash={section.sha256} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function ramdiskTitle({ ramdisk, ramdisks }: ImageDetail['report']): string {
  if (ramdisk) return `Ramdisk, ${ramdisk.compression}, ${formatBytes(ramdisk.unpackedSize)} unpacked`;
  if (!ramdisks || ramdisks.length === 0) return 'No ramdisk';
  return `Ramdisks: ${ramdisks.map((one) => `${one.type}${one.name && one.name !== one.type ? ` ${one.name}` : ''}, ${one.entries} entries`).join('; ')}`;
}
