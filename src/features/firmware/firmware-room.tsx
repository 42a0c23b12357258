'use client';
import { fitWords } from '@/core/words/fit';
import { Button } from 'antd';
import type { RefObject } from 'react';
import { useMemo, useRef, useState } from 'react';
import type { DownloadPageView } from '@/contracts/download-view';
import type { SeenPackage, SeenPackages, WantedImages } from '@/contracts/firmware-view';
import { Link } from '@/ui/link';
import { EmptyNote } from '@/ui/empty-note';
import { ErrorNote } from '@/ui/error-note';
import { formatAge, formatBytes } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { useRoomWhy } from '@/ui/frame/why';
import styles from './firmware.module.css';
import { FindLine } from './find-line';
import { MakersPage } from './makers-page';
import { HashBench } from './hash-bench';
import { heldFiles } from './held-files';
import { InstallBody } from './install-body';
import { KitBody } from './kit-body';
import { PackageBody } from './package-body';
import { PackageWork } from './package-work';
import { RollCall } from './roll-call';
import { roleWordsOf } from './role-words';
import type { OpenPackage } from './use-package';
import { useFirmwareClient } from './use-firmware-client';
import { usePackage } from './use-package';
import { canOpen, useTable } from './use-table';
import { imagesWords } from './wanted-words';

interface Props {
  readonly known: SeenPackages;
  readonly openRound: { readonly id: string; readonly handset: string } | null;
  /** What the newest round that takes images waits for. */
  readonly wanted: WantedImages | null;
  readonly now: number;
  /** Handsets on the bench. */
  readonly handsets: readonly { readonly id: string; readonly name: string }[];
  /** The maker's download page; null where there is none. */
  readonly page: DownloadPageView | null;
}

export function FirmwareRoom({ known, openRound, wanted, now, handsets, page }: Props) {
  const client = useFirmwareClient();
  const table = useTable(client);
  const state = usePackage(client);
  const { pack, work, read, error, setError, open, stop } = state;
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [hashing, setHashing] = useState<File | null>(null);
  useKeys(useMemo(() => [{ key: 'o', does: 'open files', run: () => input.current?.click() }], []));
  useRoomWhy(useMemo(() => (pack ? <FirmwareWhy pack={pack} /> : null), [pack]));
  const choose = (list: FileList | null) => chooseFiles([...(list ?? [])]);
  const chooseFiles = (files: readonly File[]) => {
    if (files.length === 0) return;
    setHashing(null);
    // one file alone is what the person came for; of several, the roll-call comes first
    const alone = files.length === 1;
    if (!alone) state.close();
    table.put(files, (called) => (alone && (canOpen(called) || called.error) ? open([called.file]) : null));
  };
  const show = (file: File) => {
    setHashing(null);
    void open(table.companions(file));
  };
  const showAgain = (files: readonly File[]) => {
    setHashing(null);
    void open(files);
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
      <Shelf
        input={input}
        over={over}
        table={table}
        pack={pack}
        known={known}
        now={now}
        onChoose={choose}
        onShow={show}
        onShowAgain={showAgain}
      />
      <div className={styles.body}>
        {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
        {work.kind === 'opening' ? (
          <PackageWork work={work} read={read} sizeBytes={work.sizeBytes} onStop={stop} />
        ) : null}
        {pack ? (
          <OpenedFile
            client={client}
            state={state}
            pack={pack}
            table={table}
            openRound={openRound}
            handsets={handsets}
            onOpenAgain={showAgain}
          />
        ) : work.kind === 'opening' || error ? null : (
          <TableOrNothing
            table={table}
            wanted={wanted}
            fromPage={page !== null}
            onOpen={show}
            onOpenAgain={showAgain}
            onHash={setHashing}
          />
        )}
        {!pack && work.kind !== 'opening' ? (
          <>
            {page ? <MakersPage page={page} now={now} onOpen={(file) => chooseFiles([file])} /> : null}
            <FindLine handsets={handsets} />
          </>
        ) : null}
        {!pack && hashing ? (
          <HashBench key={hashing.name} file={hashing} stated={table.sums} startsAtOnce />
        ) : null}
      </div>
    </div>
  );
}

type Table = ReturnType<typeof useTable>;

interface OpenedFileProps {
  readonly client: ReturnType<typeof useFirmwareClient>;
  readonly state: ReturnType<typeof usePackage>;
  readonly pack: OpenPackage;
  readonly table: Table;
  readonly openRound: Props['openRound'];
  readonly handsets: Props['handsets'];
  readonly onOpenAgain: (files: readonly File[]) => void;
}

/** Opens the set again, of its region parts only one; null where this tab has not got its files any more. */
function withoutOtherRegions(
  { fileNames, sizeBytes, report }: OpenPackage,
  onOpen: (files: readonly File[]) => void,
): ((file: string) => void) | null {
  const files = heldFiles(fileNames[0]!, sizeBytes);
  if (!files || !report.set) return null;
  const regions = report.set.choice.map(({ file }) => file);
  return (wanted) => onOpen(files.filter(({ name }) => name === wanted || !regions.includes(name)));
}

function OpenedFile({ state, pack, table, openRound, client, handsets, onOpenAgain }: OpenedFileProps) {
  const { kind } = pack.report;
  return (
    <>
      {table.entries.length > 1 ? (
        <Button size="small" type="text" className={styles.back} onClick={() => state.close()}>
          ‹ All {table.entries.length} files
        </Button>
      ) : null}
      {kind === 'kit' ? (
        <KitBody key={pack.file.name} pack={pack} />
      ) : kind === 'recovery-zip' ? (
        <InstallBody key={pack.file.name} pack={pack} handsets={handsets} />
      ) : (
        <>
          <PackageBody
            key={pack.file.name}
            {...state}
            pack={pack}
            openRound={openRound}
            client={client}
            onRegion={withoutOtherRegions(pack, onOpenAgain)}
          />
          <HashBench key={`hash ${pack.file.name}`} file={pack.file} stated={table.sums} />
        </>
      )}
    </>
  );
}

interface TableOrNothingProps {
  readonly table: Table;
  readonly wanted: WantedImages | null;
  /** Files can be fetched below. */
  readonly fromPage: boolean;
  readonly onOpenAgain: (files: readonly File[]) => void;
  readonly onOpen: (file: File) => void;
  readonly onHash: (file: File) => void;
}

/** Of several files, or of one that is no package, the roll-call. */
function TableOrNothing({ table, wanted, fromPage, onOpen, onOpenAgain, onHash }: TableOrNothingProps) {
  const [only, second] = table.entries;
  if (second || (only?.found && !canOpen(only)))
    return <RollCall {...table} onOpen={onOpen} onHash={onHash} />;
  if (wanted) return <WantedNote wanted={wanted} onOpenAgain={onOpenAgain} />;
  if (fromPage)
    return (
      <p style={{ maxWidth: 860 }}>
        <b>Nothing is on the table.</b> Fetch the file from the maker’s page below, or drop one that you have:
        Eterno says which build it is of, which handset it fits, and takes out the image you need.
      </p>
    );
  return (
    <EmptyNote title="Nothing is on the table">
      Drop whatever the maker’s site gave you: a full or incremental update, a factory archive, a set of tars,
      images, checksums, a patch kit. Eterno says what each file is, which build it is of and which handset it
      fits, and takes out the image you need. Nothing leaves this computer.
    </EmptyNote>
  );
}

/** The table is empty, and a round waits for images: which package, and where it is. */
function WantedNote({
  wanted: { handset, build, partitions, file, roundId },
  onOpenAgain,
}: {
  readonly wanted: WantedImages;
  readonly onOpenAgain: (files: readonly File[]) => void;
}) {
  const held = file && heldFiles(file.name, file.sizeBytes);
  const what = partitions === null ? 'every image' : imagesWords(partitions);
  return (
    <EmptyNote
      title={`The round on ${handset} takes ${what} from the package of ${build}`}
      action={
        <>
          {held ? (
            <Button type="primary" onClick={() => onOpenAgain(held)}>
              Open {file.name}
            </Button>
          ) : null}{' '}
          <Link href={`/rounds/${roundId}`}>
            <Button>Back to the round</Button>
          </Link>
        </>
      }
    >
      {held
        ? 'It was opened in this tab before, and can be opened again.'
        : file
          ? `It was opened before as ${file.name}: drop that file here again. A page can’t open a file of yours by itself.`
          : 'Drop it here. Eterno says whether it is exactly that build, and takes out what the round needs.'}
    </EmptyNote>
  );
}

interface ShelfProps {
  readonly input: RefObject<HTMLInputElement | null>;
  readonly over: boolean;
  readonly table: Table;
  readonly pack: OpenPackage | null;
  readonly known: SeenPackages;
  readonly now: number;
  readonly onChoose: (list: FileList | null) => void;
  readonly onShow: (file: File) => void;
  readonly onShowAgain: (files: readonly File[]) => void;
}

/** Where files are dropped, what lies on the table, and what was seen before. */
function Shelf({ input, over, table, pack, known, now, onChoose, onShow, onShowAgain }: ShelfProps) {
  return (
    <div className={styles.shelf}>
      <label className={styles.drop} data-over={over}>
        <b>Drop files here, one or many</b>
        <span className="soft small" style={{ display: 'block' }}>
          or press to choose · nothing leaves this computer
        </span>
        <input
          ref={input}
          type="file"
          multiple
          className="visually-hidden"
          aria-label="Choose a firmware package"
          onChange={(event) => {
            onChoose(event.target.files);
            event.target.value = '';
          }}
        />
      </label>
      {table.entries.length > 0 ? (
        <section aria-label="On the table">
          <div className={styles.shelfHead}>
            <b>On the table</b>
            <Button size="small" type="text" onClick={table.clear}>
              Clear it
            </Button>
          </div>
          {table.entries.map((entry) => (
            <button
              key={`${entry.file.name}${entry.file.size}`}
              type="button"
              className={styles.pack}
              data-current={pack?.fileNames.includes(entry.file.name) ?? false}
              disabled={!canOpen(entry)}
              onClick={() => onShow(entry.file)}
            >
              <span className="mono small">{entry.file.name}</span>
              <span className={entry.error ? 'bad small' : 'soft small'}>
                {entry.error ? 'can’t be read' : entry.found ? roleWordsOf(entry.found) : 'being read'} ·{' '}
                {formatBytes(entry.file.size)}
              </span>
            </button>
          ))}
        </section>
      ) : null}
      {known.newest.length > 0 ? <b className={styles.shelfHead}>Seen before</b> : null}
      {known.newest.map((one) => (
        <SeenBefore key={one.id} seen={one} now={now} onOpen={onShowAgain} />
      ))}
      {known.older > 0 ? <p className="soft small">and {known.older} older ones</p> : null}
      {known.newest.length === 0 ? (
        <p className="soft small">Packages you open are remembered here; the files stay where they are.</p>
      ) : null}
    </div>
  );
}

/** It opens again where this tab still holds the file, and says what to drop where it doesn’t. */
function SeenBefore({
  seen,
  now,
  onOpen,
}: {
  readonly seen: SeenPackage;
  readonly now: number;
  readonly onOpen: (files: readonly File[]) => void;
}) {
  const held = heldFiles(seen.fileName, seen.sizeBytes);
  const lines = (
    <>
      <span className="mono small">{seen.name}</span>
      <span className="soft small">
        {seen.incremental ? 'incremental, ' : ''}
        {seen.product ?? 'build not stated'} · {formatBytes(seen.sizeBytes)} · {formatAge(seen.openedAt, now)}
      </span>
    </>
  );
  if (held)
    return (
      <button type="button" className={styles.pack} onClick={() => onOpen(held)}>
        {lines}
        <span className="small" style={{ textDecoration: 'underline' }}>
          Open it again
        </span>
      </button>
    );
  return (
    <div className={styles.seen}>
      {lines}
      <span className="soft small">To open it, drop {seen.fileName} here again.</span>
    </div>
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
                <div className="soft small">{fitWords(one.fit.reason)}</div>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
