import { loopWayOut } from '@/core/words/loops';
import { Button, Select, Slider } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ModulesView } from '@/contracts/module-view';
import type { Caution } from '@/core/modules/switch-off';
import { upperFirst } from '@/core/words/sentence';
import { NextStrip } from '@/ui/next-strip';
import styles from './modules.module.css';

const CAUTION_WORDS: Readonly<Record<Caution, string>> = {
  all: 'switch all of them off',
  'by chance': 'switch off what is over a limit',
  none: 'leave them on',
};
const SIZE_WORDS: Readonly<Record<string, string>> = {
  same: 'the same month',
  monthly: 'a monthly step',
  quarterly: 'a quarterly step',
  major: 'a step to a new release',
};
export const percent = (share: number) =>
  `${share < 0.1 ? (share * 100).toFixed(1) : Math.round(share * 100)} %`;

type Before = NonNullable<ModulesView['before']>;

/**
 * What to switch off before the next update of a handset, each with its chance and why, and how it comes
 * back.
 */
export function BeforeUpdate({ view }: { readonly view: ModulesView }) {
  const { before, handset, caution, limit } = view;
  return (
    <section aria-label="Before the next update">
      <Filters view={view} />
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
            <Advice before={before} />
          </NextStrip>
          <ModuleTable before={before} limit={caution === 'by chance' ? limit : null} />
          <p className="soft small">{loopWayOut(before.restsAfter)}</p>
        </>
      )}
    </section>
  );
}

function Filters({ view: { handset, handsets, caution, limit } }: { readonly view: ModulesView }) {
  const router = useRouter();
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
  return (
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
  );
}

function sayStep({ from, to, isUpdate, size, kernelChanged }: Before): string {
  if (!isUpdate) return `No newer build is known. These are the chances on ${to}.`;
  const kernel =
    kernelChanged === null
      ? '; whether the kernel changes is not known yet'
      : kernelChanged
        ? ', and the kernel changes'
        : ', and the kernel stays';
  return `From ${from} it is ${SIZE_WORDS[size]}${kernel}.`;
}

/** What to switch off, how large the step is, and how it comes back. */
function Advice({ before }: { readonly before: Before }) {
  const { modules, isUpdate, to, back } = before;
  const off = modules.filter((one) => one.off).map((one) => one.name);
  const nameOf = (id: string) => modules.find((one) => one.id === id)?.name ?? id;
  return (
    <>
      <b>
        {off.length === 0
          ? 'All of them may stay on.'
          : `Switch off ${off.join(', ')}${isUpdate ? ` before ${to}` : ''}.`}
      </b>{' '}
      {sayStep(before)}
      {back ? (
        <>
          {' '}
          Afterwards switch on {back.batch.map(nameOf).join(', ')} first. Expect about{' '}
          {back.restarts.toFixed(1)} restarts and {back.loops.toFixed(1)} loops until all are back.
        </>
      ) : null}
    </>
  );
}

interface ModuleTableProps {
  readonly before: Before;
  /** Chance over which a module is switched off; null where chance does not decide. */
  readonly limit: number | null;
}

const ModuleTable = ({ before, limit }: ModuleTableProps) => (
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
            <Interval mean={one.mean} between={one.between} limit={limit} />
          </td>
          <td>
            <b className={one.off ? 'wait' : ''}>{one.off ? '○ off' : '● stays on'}</b>
          </td>
          <td className="small">
            {one.why} <span className="soft">{upperFirst(one.reasons.join('; '))}.</span>
          </td>
        </tr>
      ))}
    </tbody>
  </table>
);

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
