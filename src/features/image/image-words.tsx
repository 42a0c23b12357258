import { Link } from '@/ui/link';
import type { ImageDetail } from '@/contracts/image-view';
import type { AvbReport, ImageReport } from '@/core/packages/inspect-image';
import { formatTime } from '@/ui/format';
import { HashText } from '@/ui/hash-text';

/** The header in words. */
export function HeaderWords({ report }: { report: ImageReport }) {
  const recovery = report.ramdisks?.find((one) => one.type === 'recovery');
  const rows: readonly (readonly [string, React.ReactNode])[] = [
    [
      'Header',
      `version ${report.headerVersion}, pages of ${report.pageSize} bytes, ${report.kernelPresent ? 'with a kernel' : 'without a kernel'}`,
    ],
    ['Release', report.osVersion ?? 'not stated in the header; the verified-boot properties carry it'],
    ['Patch level', report.patchLevel ?? 'not stated in the header'],
    ['Name', report.name === '' ? 'none' : (report.name ?? 'none')],
    ['Command line', report.cmdline === '' ? 'empty' : (report.cmdline ?? 'none')],
    ...(report.idValid === null
      ? []
      : ([['Id', report.idValid ? 'is the SHA-1 of its parts' : 'does not match its parts']] as const)),
    ...(report.kind === 'vendor_boot'
      ? ([
          ['Recovery', recovery ? `lives here, in the ramdisk “${recovery.name}”` : 'does not live here'],
        ] as const)
      : []),
  ];
  if (report.headerVersion === null) return null;
  return <Rows rows={rows} />;
}

const flagWords = (flags: number) =>
  [flags & 1 ? 'hash trees switched off' : '', flags & 2 ? 'verification switched off' : '']
    .filter((word) => word !== '')
    .join(', ') || 'none';

const ALGORITHMS = [
  'none: unsigned',
  'SHA-256, RSA 2048',
  'SHA-256, RSA 4096',
  'SHA-256, RSA 8192',
  'SHA-512, RSA 2048',
  'SHA-512, RSA 4096',
  'SHA-512, RSA 8192',
];

/** Verified-boot data, each value and what it means here. */
export function AvbWords({ avb, full }: { avb: AvbReport | null; full: boolean }) {
  if (!avb)
    return (
      <p className="soft">
        No verified-boot data in this file. If the bootloader checks this image, it does so by the main
        vbmeta.
      </p>
    );
  const rows: (readonly [string, React.ReactNode])[] = [
    [
      'Digest',
      avb.digestValid === null
        ? 'of this image: none stated'
        : avb.digestValid
          ? '✓ holds'
          : '✗ no longer matches, as after every patch',
    ],
    [
      'Signature',
      avb.signatureValid === null
        ? 'none'
        : avb.signatureValid
          ? '✓ holds, checked with the key in the image'
          : '✗ does not hold',
    ],
    ['Algorithm', ALGORITHMS[avb.algorithm] ?? avb.algorithm],
    ['Rollback index', `${avb.rollbackIndex}${full ? `, location ${avb.rollbackIndexLocation}` : ''}`],
    ['Flags', flagWords(avb.flags)],
    ...(full ? detailRows(avb) : []),
    ...Object.entries(avb.properties).map(
      ([key, value]) => [key.replace(/^com\.android\.build\./, ''), value] as const,
    ),
  ];
  return <Rows rows={rows} />;
}

function detailRows({
  release,
  publicKeySha256,
  hashes,
  chains,
  footer,
}: AvbReport): (readonly [string, React.ReactNode])[] {
  return [
    ['Made by', release || 'not stated'],
    ...(publicKeySha256 ? [['Key', <HashText key="key" hash={publicKeySha256} />] as const] : []),
    ...(footer
      ? [
          [
            'Block',
            `${footer.vbmetaSize.toLocaleString('en')} bytes from byte ${footer.vbmetaOffset.toLocaleString('en')}`,
          ] as const,
        ]
      : []),
    ...hashes.map(
      (hash) =>
        [
          `Digest of ${hash.partition}`,
          `${hash.algorithm} over ${hash.imageSize.toLocaleString('en')} bytes and a salt of ${hash.salt.length / 2}`,
        ] as const,
    ),
    ...chains.map(
      (chain) =>
        [
          `Trusts ${chain.partition}`,
          <HashText key={chain.partition} hash={chain.publicKeySha256} />,
        ] as const,
    ),
  ];
}

/** Where it came from and where it went, as a chain. */
export function OriginChain({ image }: { image: ImageDetail }) {
  return (
    <ol style={{ margin: '4px 0 0', paddingLeft: 20 }}>
      {image.stockSha256 ? (
        <li>
          began as the stock image{' '}
          <Link href={`/images/${image.stockSha256}`}>{image.stockSha256.slice(0, 8)}…</Link>
        </li>
      ) : null}
      {image.origins.map((origin) => (
        <li key={`${origin.kind}${origin.at}`} style={{ overflowWrap: 'anywhere' }}>
          {origin.sentence}, {formatTime(origin.at)}
        </li>
      ))}
      {image.patchedFromIt.map((other) => (
        <li key={other.sha256}>
          patched by <Link href={`/images/${other.sha256}`}>{other.kit ?? 'an unknown kit'}</Link>{' '}
          <HashText hash={other.sha256} />
        </li>
      ))}
      {image.places.map((place) => (
        <li key={place}>lies on {place}</li>
      ))}
    </ol>
  );
}

function Rows({ rows }: { rows: readonly (readonly [string, React.ReactNode])[] }) {
  return (
    <table className="ledger">
      <tbody>
        {rows.map(([label, value]) => (
          <tr key={label}>
            <td className="soft" style={{ width: 140, overflowWrap: 'anywhere' }}>
              {label}
            </td>
            <td style={{ overflowWrap: 'anywhere' }}>{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
