'use client';
import { Button, Select } from 'antd';
import { PractiseLink } from '@/ui/frame/practise-link';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { LanePlanView, WaysView } from '@/contracts/plan-view';
import { waysQuery } from '@/contracts/ways-query';
import type { Limits } from '@/core/planning/context';
import type { OpenLimit, Opens } from '@/core/planning/nearest';
import { ErrorNote } from '@/ui/error-note';
import { formatDay } from '@/ui/format';
import { useCurrentHandset } from '@/ui/frame/shelf';
import { useAct } from '@/ui/use-act';
import { startRoundAction } from './actions';
import { LaneDetail } from './lane-detail';
import { LaneTable } from './lane-table';
import { LimitsForm } from './limits-form';
import styles from './round.module.css';

/** The lane that is open: the one that was picked, else the one of last time, else ours. */
function chosenOf({ plans, last, pick }: WaysView, picked: string | null): LanePlanView | undefined {
  const lastLane = plans.find(({ lane }) => lane.id === last?.lane)?.lane.id ?? null;
  const named = (id: string | null) => plans.find(({ lane }) => lane.id === id);
  return named(picked) ?? named(lastLane ?? pick) ?? plans[0];
}

/**
 * Every way to what is wanted, side by side before anything is begun: each was played on the machine before
 * it is shown.
 */
export function ChooseLane({
  ways,
  asked,
}: {
  readonly ways: WaysView;
  /** The lane that the address asks for, where it is one of them. */
  readonly asked: string | null;
}) {
  const router = useRouter();
  const { handset } = ways;
  useCurrentHandset(handset.id);
  const [picked, setPicked] = useState(asked);
  const plan = chosenOf(ways, picked);
  // what was ticked shows at once, before the plans are there
  const [limits, setLimits] = useState(ways.limits);
  const go = (goal: string, wanted: Limits, target: string | null) => {
    setLimits(wanted);
    router.push(`/rounds/new?${new URLSearchParams(waysQuery(handset.id, goal, wanted, target))}`, {
      scroll: false,
    });
  };
  const { act, busy, error, dismiss } = useAct();
  const start = () =>
    plan &&
    act(
      () =>
        startRoundAction({
          handsetId: handset.id,
          goal: ways.goal,
          target: ways.target,
          lane: plan.lane.id,
          limits,
        }),
      (roundId) => router.push(`/rounds/${roundId}`),
    );
  return (
    <div className={styles.choose}>
      <div className={styles.chooseHead}>
        <div>
          <h1>A round for {handset.name}</h1>
          <span className="soft">
            <Link href={`/handsets/${handset.id}`}>{handset.name}</Link>, build{' '}
            <span className="mono">{handset.build ?? 'not known'}</span>.{' '}
            <PractiseLink handsetId={handset.id}>Practise it first, with a copy</PractiseLink>
          </span>
        </div>
        {plan ? (
          <Button type="primary" size="large" loading={busy} onClick={start}>
            Start this round
          </Button>
        ) : null}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <Wanted
        ways={ways}
        onChange={(goal, target) => go(goal, limits, target)}
        onInstall={(install) => go(ways.goal, { ...limits, install }, ways.target)}
      />
      <LimitsForm limits={limits} onChange={(wanted) => go(ways.goal, wanted, ways.target)} />
      <WhoPatches ways={ways} plan={plan} />
      <Ways ways={ways} chosen={plan?.lane.id ?? null} onChoose={setPicked} />
      {plan ? <LaneDetail plan={plan} before={ways.last?.keys ?? null} /> : null}
      {plan ? <TakenForGranted assumptions={ways.assumptions} /> : null}
      <RuledOut ways={ways} onLimits={(wanted) => go(ways.goal, wanted, ways.target)} />
      {plan ? null : <TakenForGranted assumptions={ways.assumptions} />}
    </div>
  );
}

/** What the plans rest on and nobody has read, each with what finds it out. */
function TakenForGranted({ assumptions }: Pick<WaysView, 'assumptions'>) {
  if (assumptions.length === 0) return null;
  return (
    <section aria-label="Taken for granted" style={{ marginTop: 14 }}>
      <h2>Taken for granted, because nobody has read it</h2>
      <table className="ledger">
        <thead>
          <tr>
            <th style={{ width: '50%' }}>What these plans rest on</th>
            <th>How to find it out</th>
          </tr>
        </thead>
        <tbody>
          {assumptions.map(({ words, foundBy }) => (
            <tr key={words}>
              <td>{words}</td>
              <td className="soft small">{foundBy}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Wanted({
  ways,
  onChange,
  onInstall,
}: {
  readonly ways: WaysView;
  readonly onChange: (goal: string, target: string | null) => void;
  readonly onInstall: (sha256: string) => void;
}) {
  return (
    <div className={styles.wish}>
      <span>What do you want?</span>
      <Select
        aria-label="What do you want"
        style={{ width: 310 }}
        value={ways.goal}
        onChange={(goal) => onChange(goal, null)}
        options={ways.goals.map(({ id, words }) => ({ value: id, label: words }))}
      />
      {ways.goal === 'install a package' && ways.install !== null ? (
        <Select
          aria-label="Which package"
          style={{ width: 260 }}
          value={ways.install}
          onChange={onInstall}
          options={ways.installs.map(({ sha256, name }) => ({ value: sha256, label: name }))}
        />
      ) : null}
      {ways.goal !== 'install a package' && ways.builds.length > 1 && ways.target !== null ? (
        <Select
          aria-label="Which build runs in the end"
          style={{ width: 190 }}
          value={ways.target}
          onChange={(target) => onChange(ways.goal, target)}
          options={ways.builds.map(({ fingerprint, buildId }) => ({ value: fingerprint, label: buildId }))}
        />
      ) : null}
    </div>
  );
}

/** Who patches the image, where it is not a kit of the vault. */
function WhoPatches({ ways, plan }: { readonly ways: WaysView; readonly plan: LanePlanView | undefined }) {
  const brings = plan?.steps.some(({ key }) => key === 'bring-patched' || key === 'bring-target-patched');
  if (!brings) return null;
  return (
    <p className={styles.whoPatches}>
      <b>Patched by your provider’s own app: bring it here.</b> Eterno holds the image against the stock image
      of its build before anything writes it.{' '}
      {ways.kit === null ? (
        <>
          No kit in the vault supports this release. If your provider ships one,{' '}
          <Link href="/firmware">bring the kit</Link>, and Eterno patches here.
        </>
      ) : null}
    </p>
  );
}

interface WaysProps {
  readonly ways: WaysView;
  readonly chosen: string | null;
  readonly onChoose: (id: string) => void;
}

function Ways({ ways, chosen, onChoose }: WaysProps) {
  if (ways.missing) return <p className="wait">{ways.missing}</p>;
  if (ways.plans.length === 0)
    return (
      <h2 style={{ margin: '12px 0 2px' }}>
        {ways.others.length > 0 ? 'No way leads there from here.' : ways.why}
      </h2>
    );
  return (
    <>
      <h2 style={{ margin: '12px 0 2px' }}>
        {ways.plans.length === 1 ? 'One way leads there' : `${ways.plans.length} ways lead there`}
      </h2>
      <p className="soft">
        {ways.why} Eterno played each way through on a model of this handset before showing it.
        {ways.last
          ? ` Your last round of this kind took ${Math.round(ways.last.minutes)} min on ${formatDay(ways.last.closedAt)}.`
          : ''}
      </p>
      <NotAgain ways={ways} />
      <LaneTable ways={ways} chosen={chosen} onChoose={onChoose} />
    </>
  );
}

function NotAgain({ ways: { plans, others, notAgain } }: { readonly ways: WaysView }) {
  if (!notAgain) return null;
  const title = [...plans, ...others].find(({ lane }) => lane.id === notAgain.lane)?.lane.title ?? null;
  return (
    <p className="wait">
      Last time, on {formatDay(notAgain.closedAt)}
      {title ? `, by “${title}”` : ''}, you would not have done it the same way again
      {notAgain.note === '' ? '.' : `: “${notAgain.note}”`}{' '}
      <Link href={`/rounds/${notAgain.id}`}>See that round</Link>
    </p>
  );
}

/** What is offered where a limit or a wish is all that stands in the way. */
const LIMIT_BUTTONS: Readonly<Record<OpenLimit, string>> = {
  computer: 'I have a computer',
  wipeAllowed: 'It may be erased',
  keepFuse: 'The fuse may blow',
  secondHandset: 'The host is a computer',
  oneSlot: 'Both slots may change',
  imageBackup: 'Without the image of its data',
  patchThere: 'Patch here',
  patchedElsewhere: 'Patch here',
  seenFirst: 'Root it before its first start',
};
const ROOMS = {
  package: ['/firmware', 'Open a package'],
  kit: ['/store', 'Bring a kit'],
  recovery: ['/store', 'Bring a recovery'],
} as const;

function Opening({
  opens,
  limits,
  onLimits,
}: {
  readonly opens: Opens | null;
  readonly limits: Limits;
  readonly onLimits: (limits: Limits) => void;
}) {
  if (opens === null) return null;
  if (opens.by === 'limit')
    return (
      <Button size="small" onClick={() => onLimits({ ...limits, [opens.limit]: opens.value })}>
        {LIMIT_BUTTONS[opens.limit]}
      </Button>
    );
  const [href, words] = ROOMS[opens.by];
  return <Link href={href}>{words}</Link>;
}

/** Lanes with one reason stand together, with what would open them. */
function RuledOut({
  ways: { others, limits, plans },
  onLimits,
}: {
  readonly ways: WaysView;
  readonly onLimits: (limits: Limits) => void;
}) {
  if (others.length === 0) return null;
  const reasons = [...new Set(others.map(({ reason }) => reason))];
  return (
    <>
      <h2 style={{ marginTop: 18 }}>{plans.length > 0 ? 'Why not the others' : 'Why not'}</h2>
      <table className="ledger">
        <tbody>
          {reasons.map((reason) => {
            const out = others.filter((one) => one.reason === reason);
            return (
              <tr key={reason}>
                <td style={{ width: 360 }}>
                  {out.map(({ lane }) => (
                    <div key={lane.id}>{lane.title}</div>
                  ))}
                </td>
                <td style={{ width: 110 }}>{out[0]!.verdict}</td>
                <td className="small">{reason}</td>
                <td style={{ width: 190 }}>
                  <Opening opens={out[0]!.opens} limits={limits} onLimits={onLimits} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
