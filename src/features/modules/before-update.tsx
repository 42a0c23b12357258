import { Button, Select, Slider } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ModulesView } from '@/contracts/module-view';
import type { Caution } from '@/core/modules/switch-off';
import { NextStrip } from '@/ui/next-strip';
import styles from './modules.module.css';

const CAUTION_WORDS: Readonly<Record<Caution, string>> = {
  all: 'switch all of them off',
  'by chance': 'switch off what is over a limit',
  none: 'leave them on',
};
const SIZE_WORDS: Readonly<Record<string, string>> = {
  same: 'no step at all',
  monthly: 'a monthly step',
  quarterly: 'a quarterly step',
  major: 'a step to a new release',
};
export const percent = (share: number) =>
  `${share < 0.1 ? (share * 100).toFixed(1) : Math.round(share * 100)} %`;

/**
 * What to switch off before the next update of a handset, each with its chance and why, and how it comes
 * back.
 */
export function BeforeUpdate({ view }: { readonly view: ModulesView }) {
  const router = useRouter();
  const { before, handset, handsets, caution, limit } = view;
  const [wanted, setWanted] = useState(limit);
  const go = (change: Readonly<Record<string, string>>) => {
    const query = new URLSearchParams({
      ...(handset ? { handset: handset.id } : {}),
      caution,
      limit: String(limit),
      ...change,
    });
    router.push(`/modules?${query}`, { scroll: false });
  };
  const off = before?.modules.filter((one) => one.off) ?? [];
  const names = new Map(before?.modules.map((one) => [one.id, one.name]));
  return (
    <section aria-label="Before the next update">
      <div className={styles.filters}>
        <Select
          aria-label="Handset"
          style={{ width: 270 }}
          value={handset?.id ?? null}
          onChange={(id) => go({ handset: id! })}
          options={handsets.map((one) => ({
            value: one.id,
            label: `${one.name}, ${one.modules === 1 ? 'one module' : `${one.modules} modules`}`,
          }))}
        />
        <Select
          aria-label="How careful"
          style={{ width: 250 }}
          value={caution}
          onChange={(value) => go({ caution: value })}
          options={(['by chance', 'all', 'none'] as const).map((value) => ({
            value,
            label: CAUTION_WORDS[value],
          }))}
        />
        {caution === 'by chance' ? (
          <span className={styles.limit}>
            <span>over {percent(wanted)}</span>
            <Slider
              ariaLabelForHandle="Limit"
              min={0.005}
              max={0.4}
              step={0.005}
              value={wanted}
              tooltip={{ open: false }}
              onChange={setWanted}
              onChangeComplete={(value) => go({ limit: String(value) })}
            />
          </span>
        ) : null}
      </div>
      {!before ? (
        <p className="soft">
          {handset ? `${handset.name} says that it has no modules.` : 'No handset is on the bench.'}
        </p>
      ) : (
        <>
          <NextStrip
            action={
              before.isUpdate && handset ? (
                <Link
                  href={`/rounds/new?${new URLSearchParams({ handset: handset.id, goal: 'monthly update', modules: caution, limit: String(limit) })}`}
                >
                  <Button type="primary">Compare the ways</Button>
                </Link>
              ) : null
            }
          >
            <b>
              {off.length === 0
                ? 'All of them may stay on.'
                : `Switch off ${off.map((one) => one.name).join(', ')}${before.isUpdate ? ` before ${before.to}` : ''}.`}
            </b>{' '}
            {before.isUpdate
              ? `From ${before.from} it is ${SIZE_WORDS[before.size]}${before.kernelChanged === null ? '; whether the kernel changes is not known yet' : before.kernelChanged ? ', and the kernel changes' : ', the kernel stays'}.`
              : `No newer build is known; this is how they stand on ${before.to}.`}
            {before.back ? (
              <>
                {' '}
                Back afterwards: first {before.back.batch.map((id) => names.get(id) ?? id).join(', ')};{' '}
                {before.back.restarts.toFixed(1)} restarts and {before.back.loops.toFixed(1)} loops are to be
                expected in all.
              </>
            ) : null}
          </NextStrip>
          <table className="ledger">
            <thead>
              <tr>
                <th>Module</th>
                <th style={{ width: 250 }}>Chance that it breaks {before.to}</th>
                <th style={{ width: 90 }}>Before it</th>
                <th>Why</th>
              </tr>
            </thead>
            <tbody>
              {before.modules.map((one) => (
                <tr key={one.id}>
                  <td>
                    {one.name} {one.version ? <span className="mono small soft">{one.version}</span> : null}
                    {one.readAs ? <div className="small wait">only {one.readAs} is on the shelf</div> : null}
                  </td>
                  <td>
                    <Interval
                      mean={one.mean}
                      between={one.between}
                      limit={caution === 'by chance' ? limit : null}
                    />
                  </td>
                  <td>
                    <b className={one.off ? 'wait' : ''}>{one.off ? '○ off' : '● stays on'}</b>
                  </td>
                  <td className="small">
                    {one.why} <span className="soft">{one.reasons.join('; ')}.</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="soft small">
            The way out of a loop: after three failed starts the kit starts without any module. If it does
            not, write the stock image back from the bootloader: without root no module is loaded.
          </p>
        </>
      )}
    </section>
  );
}

const BAR = 130;
const FULL = 0.5;
const at = (share: number) => Math.min(1, share / FULL) * BAR;

/** A mark on its interval, to the scale of nought to a half. */
function Interval({
  mean,
  between,
  limit,
}: {
  readonly mean: number;
  readonly between: readonly [number, number];
  readonly limit: number | null;
}) {
  return (
    <span className={styles.interval}>
      <svg width={BAR + 8} height={16} aria-hidden="true">
        <path d={`M4 8H${BAR + 4}`} stroke="var(--line)" />
        {limit === null ? null : (
          <path d={`M${4 + at(limit)} 1v14`} stroke="var(--wait)" strokeDasharray="2 2" />
        )}
        <path d={`M${4 + at(between[0])} 8H${4 + at(between[1])}`} stroke="var(--ink)" strokeWidth={3} />
        <path d={`M${4 + at(mean)} 3v10`} stroke="var(--root)" strokeWidth={2.4} />
      </svg>
      <span>
        {percent(mean)}{' '}
        <span className="soft small">
          ({percent(between[0])} to {percent(between[1])})
        </span>
      </span>
    </span>
  );
}
