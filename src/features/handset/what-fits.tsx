'use client';
import { Link } from '@/ui/link';
import { useState } from 'react';
import type { HandsetDetail, PackageFit, ShelvedImage } from '@/contracts/handset-view';
import type { Fit, FitVerdict } from '@/core/fit/fit-package';
import { fitWords } from '@/core/words/fit';
import { FitTable } from '@/ui/fit-table';
import { formatBytes } from '@/ui/format';
import { roleWords } from '@/ui/role-words';
import ui from '@/ui/ui.module.css';
import { fitTone } from '@/ui/fit-tone';
import styles from './handset.module.css';

const RANK: Readonly<Record<FitVerdict, number>> = {
  exact: 0,
  newer: 1,
  "can't tell": 2,
  older: 3,
  'other variant': 4,
  'other handset': 5,
};

interface Held {
  readonly key: string;
  readonly what: string;
  readonly href: string | null;
  readonly detail: string;
  readonly fit: Fit;
  readonly subject: string;
}

const ofPackage = ({ id, fileName, sizeBytes, incremental, fit }: PackageFit): Held => ({
  key: id,
  what: fileName,
  href: null,
  detail: `${incremental ? 'incremental package' : 'package'}, ${formatBytes(sizeBytes)}`,
  fit,
  subject: 'The package',
});
const ofImage = (image: ShelvedImage): Held => ({
  key: image.sha256,
  what: `${image.partition}, ${roleWords(image)}`,
  href: `/images/${image.sha256}`,
  detail: `image in the vault, ${image.build ?? 'build not named'}`,
  fit: image.fit,
  subject: 'The image',
});

/** Every package that was opened and every image that is kept, held against this handset. */
export function WhatFits({ handset }: { handset: HandsetDetail }) {
  const held = [...handset.packages.map(ofPackage), ...handset.shelf.map(ofImage)].sort(
    (a, b) => RANK[a.fit.verdict] - RANK[b.fit.verdict],
  );
  const [open, setOpen] = useState<string | null>(
    held.find((one) => one.fit.verdict !== 'exact')?.key ?? held[0]?.key ?? null,
  );
  if (held.length === 0)
    return (
      <p className="soft">
        No package was opened and no image is kept that could be for it.{' '}
        <Link href="/firmware">Open a package</Link>.
      </p>
    );
  const chosen = held.find((one) => one.key === open);
  return (
    <div className={styles.fits}>
      <div>
        <table className="ledger">
          <thead>
            <tr>
              <th>Package or image</th>
              <th style={{ width: 130 }}>Verdict</th>
            </tr>
          </thead>
          <tbody>
            {held.map((one) => (
              <tr key={one.key} data-open={one.key === open}>
                <td>
                  <button
                    type="button"
                    className={ui.pick}
                    onClick={() => setOpen(one.key)}
                    aria-pressed={one.key === open}
                  >
                    {one.what}
                  </button>
                  <div className="soft small">{one.detail}</div>
                </td>
                <td className={fitTone(one.fit.verdict)}>
                  <b>{one.fit.verdict}</b>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {handset.otherImages > 0 ? (
          <p className="soft small" style={{ marginTop: 6 }}>
            {handset.otherImages === 1
              ? 'One more image in the vault is'
              : `${handset.otherImages} more images in the vault are`}{' '}
            of other code names: none of them fits.
          </p>
        ) : null}
      </div>
      {chosen ? (
        <div>
          <h2 style={{ overflowWrap: 'anywhere' }}>
            {chosen.href ? <Link href={chosen.href}>{chosen.what}</Link> : chosen.what}
          </h2>
          <p>{fitWords(chosen.fit.reason)}</p>
          <FitTable facts={chosen.fit.facts} name={handset.name} subject={chosen.subject} />
        </div>
      ) : null}
    </div>
  );
}
