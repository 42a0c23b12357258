'use client';
import { Button } from 'antd';
import Link from 'next/link';
import { useMemo, useRef } from 'react';
import type { ImageDetail, KitView } from '@/contracts/image-view';
import { formatBytes, formatTime } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { HashText } from '@/ui/hash-text';
import { ByteMap } from './byte-map';
import { EntryList } from './entry-list';
import styles from './image.module.css';
import { PatchPanel } from './patch-panel';
import { ProofList } from './proof-list';

interface Props {
  readonly image: ImageDetail;
  readonly kits: readonly KitView[];
  readonly openRound: { readonly id: string; readonly handset: string } | null;
}

const title = (image: ImageDetail) => {
  const build = image.build ?? 'a build it does not name';
  if (image.role === 'stock') return `Stock ${image.partition} of ${build}`;
  if (image.role === 'patched') return `${image.partition} of ${build}, patched by ${image.kit}`;
  return `${image.partition} of ${build}, origin not proved`;
};

export function ImageRoom({ image, kits, openRound }: Props) {
  const { report } = image;
  const download = useRef<HTMLAnchorElement>(null);
  useKeys(useMemo(() => [{ key: 'd', does: 'download', run: () => download.current?.click() }], []));
  return (
    <div className={styles.room}>
      <div className={styles.head}>
        <div>
          <h1>{title(image)}</h1>
          <span className="soft">
            {image.product ?? 'variant not named'} · {formatBytes(image.sizeBytes)} · SHA-256 <HashText hash={image.sha256} />
          </span>
        </div>
        <Button ref={download} href={`/api/images/${image.sha256}`} download>
          Download
        </Button>
      </div>
      {image.role === 'stock' ? <PatchPanel sha256={image.sha256} partition={image.partition} kits={kits} openRound={openRound} /> : null}
      {image.role === 'patched' ? (
        <p style={{ marginTop: 10 }}>
          Made from the stock image {image.stockSha256 ? <HashText hash={image.stockSha256} /> : 'it does not name'}. A patched image is never patched
          again. {openRound ? <Link href={`/rounds/${openRound.id}`}>To the round of {openRound.handset}</Link> : null}
        </p>
      ) : null}
      <ByteMap report={report} />
      <div className={styles.columns}>
        <div>
          <h2>Sections</h2>
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
          <Words image={image} />
        </div>
        <div>
          {image.proof ? (
            <>
              <h2>Proof, by the server</h2>
              <ProofList proof={image.proof} />
            </>
          ) : null}
          <h2>{ramdiskTitle(report)}</h2>
          {image.ramdisk ? <EntryList ramdisk={image.ramdisk} /> : <p className="soft">Root can not sit in this image.</p>}
        </div>
      </div>
    </div>
  );
}

function ramdiskTitle({ ramdisk, ramdisks }: ImageDetail['report']): string {
  if (ramdisk) return `Ramdisk, ${ramdisk.entries} entries, ${ramdisk.compression}, ${formatBytes(ramdisk.unpackedSize)} unpacked`;
  if (!ramdisks || ramdisks.length === 0) return 'No ramdisk';
  return `Ramdisks: ${ramdisks.map((one) => `${one.type}${one.name ? ` ${one.name}` : ''}, ${one.entries} entries`).join('; ')}`;
}

function Words({ image }: { image: ImageDetail }) {
  const { report } = image;
  const avb = report.avb;
  const digest =
    avb?.digestValid === null
      ? 'names no digest of this image'
      : avb?.digestValid
        ? 'its digest holds'
        : 'its digest no longer holds, as after any patch';
  return (
    <>
      <h2>In words</h2>
      <table className="ledger">
        <tbody>
          <tr>
            <td className="soft">Header</td>
            <td>
              version {report.headerVersion}, pages of {report.pageSize} bytes, {report.kernelPresent ? 'with a kernel' : 'without a kernel'}
            </td>
          </tr>
          <tr>
            <td className="soft">Release, patch level</td>
            <td className="mono">
              {report.osVersion ?? 'not stated'}, {report.patchLevel ?? 'not stated'}
            </td>
          </tr>
          <tr>
            <td className="soft">Command line</td>
            <td className="mono">{report.cmdline || 'empty'}</td>
          </tr>
          <tr>
            <td className="soft">Verified boot</td>
            <td>{avb ? `footer there, ${digest}, rollback index ${avb.rollbackIndex}` : 'no footer'}</td>
          </tr>
          {image.origins.map((origin) => (
            <tr key={`${origin.kind}${origin.at}`}>
              <td className="soft">Came</td>
              <td style={{ overflowWrap: 'anywhere' }}>
                {origin.sentence}, {formatTime(origin.at)}
              </td>
            </tr>
          ))}
          {image.places.map((place) => (
            <tr key={place}>
              <td className="soft">Lies on</td>
              <td>{place}</td>
            </tr>
          ))}
          {image.patchedFromIt.map((other) => (
            <tr key={other.sha256}>
              <td className="soft">Patched from it</td>
              <td>
                <Link href={`/images/${other.sha256}`}>{other.kit}</Link> <HashText hash={other.sha256} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
