'use client';
import { Button, Checkbox, InputNumber, Select } from 'antd';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { LanePlanView, WaysView } from '@/contracts/plan-view';
import { LIMIT_RANGE, PLAIN_LIMIT } from '@/core/modules/switch-off';
import type { Limits } from '@/core/planning/context';
import { ErrorNote } from '@/ui/error-note';
import { formatDay } from '@/ui/format';
import { useCurrentHandset } from '@/ui/frame/shelf';
import ui from '@/ui/ui.module.css';
import { useAct } from '@/ui/use-act';
import { startRoundAction } from './actions';
import { LaneDetail } from './lane-detail';
import { minuteWords } from './minute-words';
import styles from './round.module.css';

const CAUTION_OPTIONS = [
  { value: 'by chance' as const, label: 'modules off by their chance' },
  { value: 'all' as const, label: 'all modules off' },
  { value: 'none' as const, label: 'modules stay on' },
];

interface Tick {
  readonly key: Exclude<keyof Limits, 'modules' | 'modulesLimit'>;
  readonly words: string;
}
/** What there is and what must not happen. */
const LIMITS: readonly Tick[] = [
  { key: 'computer', words: 'a computer is at hand' },
  { key: 'secondHandset', words: 'the host is a second handset' },
  { key: 'wipeAllowed', words: 'it may be erased' },
  { key: 'keepFuse', words: 'its fuse has to stay whole' },
  { key: 'oneSlot', words: 'only the slot that runs may change' },
];
/** How the person would have it. */
const WISHES: readonly Tick[] = [
  { key: 'imageBackup', words: 'an image of its data first, through a recovery' },
  { key: 'patchThere', words: 'patch on the handset, fetch it back' },
];

/** Every way to what is wanted, side by side before anything is begun: each was played on the machine before it is shown. */
export function ChooseLane({ ways }: { readonly ways: WaysView }) {
  const router = useRouter();
  const { handset } = ways;
  useCurrentHandset(handset.id);
  const [picked, setPicked] = useState<string | null>(null);
  const lastLane = ways.plans.find((one) => one.lane.id === ways.last?.lane)?.lane.id ?? null;
  const chosen = picked ?? lastLane ?? ways.pick;
  const plan = ways.plans.find((one) => one.lane.id === chosen) ?? ways.plans[0];
  const notAgainTitle = [...ways.plans, ...ways.others].find(({ lane }) => lane.id === ways.notAgain?.lane)?.lane.title ?? null;
  // what was ticked shows at once, before the plans are there
  const [limits, setLimits] = useState(ways.limits);
  const go = (goal: string, wanted: Limits, target: string | null) => {
    setLimits(wanted);
    const query = new URLSearchParams({
      handset: handset.id,
      goal,
      computer: wanted.computer ? 'yes' : 'no',
      wipe: wanted.wipeAllowed ? 'yes' : 'no',
      fuse: wanted.keepFuse ? 'keep' : 'no',
      host: wanted.secondHandset ? 'handset' : 'computer',
      slots: wanted.oneSlot ? 'one' : 'both',
      image: wanted.imageBackup ? 'first' : 'no',
      patch: wanted.patchThere ? 'there' : 'here',
      modules: wanted.modules ?? 'by chance',
      limit: String(wanted.modulesLimit ?? PLAIN_LIMIT),
      ...(target === null ? {} : { target }),
    });
    router.push(`/rounds/new?${query}`, { scroll: false });
  };
  const [over, setOver] = useState<number | null>((limits.modulesLimit ?? PLAIN_LIMIT) * 100);
  const goOver = () => {
    if (over === null || over / 100 === (limits.modulesLimit ?? PLAIN_LIMIT)) return;
    go(ways.goal, { ...limits, modulesLimit: over / 100 }, ways.target);
  };
  const { act, busy, error, dismiss } = useAct();
  const start = () =>
    plan &&
    act(
      () => startRoundAction({ handsetId: handset.id, goal: ways.goal, target: ways.target, lane: plan.lane.id, limits }),
      (roundId) => router.push(`/rounds/${roundId}`),
    );
  return (
    <div className={styles.choose}>
      <div className={styles.chooseHead}>
        <div>
          <h1>A round for {handset.name}</h1>
          <span className="soft">
            <Link href={`/handsets/${handset.id}`}>{handset.name}</Link>, build <span className="mono">{handset.build ?? 'not known'}</span>
          </span>
        </div>
        {plan ? (
          <Button type="primary" size="large" loading={busy} onClick={start}>
            Start this round
          </Button>
        ) : null}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <div className={styles.wish}>
        <span>What do you want?</span>
        <Select
          aria-label="What do you want"
          style={{ width: 250 }}
          value={ways.goal}
          onChange={(goal) => go(goal, limits, null)}
          options={ways.goals.map(({ id, words }) => ({ value: id, label: words }))}
        />
        {ways.builds.length > 1 && ways.target !== null ? (
          <Select
            aria-label="Which build runs in the end"
            style={{ width: 190 }}
            value={ways.target}
            onChange={(target) => go(ways.goal, limits, target)}
            options={ways.builds.map(({ fingerprint, buildId }) => ({ value: fingerprint, label: buildId }))}
          />
        ) : null}
      </div>
      {[LIMITS, WISHES].map((ticks) => (
        <div key={ticks[0]!.key} className={styles.ticks}>
          <span className="soft">{ticks === LIMITS ? 'Limits' : 'Wishes'}</span>
          {ticks.map(({ key, words }) => (
            <Checkbox
              key={key}
              checked={limits[key] === true}
              onChange={(event) => go(ways.goal, { ...limits, [key]: event.target.checked }, ways.target)}
            >
              {words}
            </Checkbox>
          ))}
          {ticks === WISHES ? (
            <Select
              aria-label="What becomes of its modules"
              size="small"
              style={{ width: 236 }}
              value={limits.modules ?? 'by chance'}
              onChange={(modules) => go(ways.goal, { ...limits, modules }, ways.target)}
              options={CAUTION_OPTIONS}
            />
          ) : null}
          {ticks === WISHES && (limits.modules ?? 'by chance') === 'by chance' ? (
            <InputNumber
              aria-label="Chance over which a module goes off, in percent"
              size="small"
              style={{ width: 104 }}
              prefix="over"
              suffix="%"
              min={LIMIT_RANGE[0] * 100}
              max={LIMIT_RANGE[1] * 100}
              step={0.5}
              controls={false}
              value={over}
              changeOnWheel={false}
              onChange={setOver}
              onBlur={goOver}
              onPressEnter={goOver}
            />
          ) : null}
        </div>
      ))}
      {ways.missing ? <p className="wait">{ways.missing}</p> : null}
      {ways.plans.length > 0 ? (
        <>
          <h2 style={{ margin: '12px 0 2px' }}>{ways.plans.length === 1 ? 'One way leads there' : `${ways.plans.length} ways lead there`}</h2>
          <p className="soft">
            {ways.why} Each was played through on the machine before it is shown here.
            {ways.last ? ` The last good one took ${Math.round(ways.last.minutes)} min on ${formatDay(ways.last.closedAt)}.` : ''}
          </p>
          {ways.notAgain ? (
            <p className="wait">
              Last time, on {formatDay(ways.notAgain.closedAt)}
              {notAgainTitle ? `, by “${notAgainTitle}”` : ''}, you would not have done it the same way again
              {ways.notAgain.note === '' ? '.' : `: “${ways.notAgain.note}”`} <Link href={`/rounds/${ways.notAgain.id}`}>See that round</Link>
            </p>
          ) : null}
          <LaneTable ways={ways} chosen={plan?.lane.id ?? null} onChoose={setPicked} />
        </>
      ) : ways.missing ? null : (
        <h2 style={{ margin: '12px 0 2px' }}>{ways.others.length > 0 ? 'No way leads there from here.' : ways.why}</h2>
      )}
      {plan ? <LaneDetail plan={plan} before={ways.last?.keys ?? null} /> : null}
      {ways.assumptions.length > 0 ? (
        <p className="soft small" style={{ marginTop: 12 }}>
          Taken for granted, because nothing says otherwise: {ways.assumptions.join(' ')}
        </p>
      ) : null}
      {ways.others.length > 0 ? (
        <>
          <h2 style={{ marginTop: 18 }}>Why not the others</h2>
          <table className="ledger">
            <tbody>
              {ways.others.map((out) => (
                <tr key={out.lane.id}>
                  <td style={{ width: 360 }}>{out.lane.title}</td>
                  <td style={{ width: 110 }}>{out.verdict}</td>
                  <td className="small">{out.reason}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      ) : null}
    </div>
  );
}

interface TableProps {
  readonly ways: WaysView;
  readonly chosen: string | null;
  readonly onChoose: (id: string) => void;
}

function LaneTable({ ways, chosen, onChoose }: TableProps) {
  return (
    <table className={`ledger ${styles.lanes}`}>
      <thead>
        <tr>
          <th>Lane</th>
          <th>Wipes</th>
          <th>Time</th>
          <th>Without root</th>
          <th>Restarts</th>
          <th>Offers to refuse</th>
          <th>Writes</th>
          <th>Downloads</th>
          <th>File trips</th>
          <th>What is lost</th>
        </tr>
      </thead>
      <tbody>
        {ways.plans.map((plan) => (
          <LaneRow
            key={plan.lane.id}
            plan={plan}
            open={plan.lane.id === chosen}
            pick={plan.lane.id === ways.pick}
            last={plan.lane.id === ways.last?.lane}
            onChoose={onChoose}
          />
        ))}
      </tbody>
    </table>
  );
}

function LaneRow({
  plan,
  open,
  pick,
  last,
  onChoose,
}: {
  plan: LanePlanView;
  open: boolean;
  pick: boolean;
  last: boolean;
  onChoose: (id: string) => void;
}) {
  const { lane, figures, lost } = plan;
  return (
    <tr data-open={open}>
      <td>
        <button type="button" className={ui.pick} aria-pressed={open} onClick={() => onChoose(lane.id)}>
          {lane.title}
        </button>
        {pick ? <b> our pick</b> : null}
        {last ? <span className="soft"> as last time</span> : null}
        <div className="soft small">
          For it: {lane.forIt}. Against it: {lane.againstIt}.
        </div>
      </td>
      <td className={figures.wipes > 0 ? 'bad' : ''}>{figures.wipes === 0 ? 'none' : figures.wipes}</td>
      <td>{minuteWords(figures.minutes)}</td>
      <td>{Math.round(figures.minutesWithoutRoot)} min</td>
      <td>{figures.restarts}</td>
      <td>{figures.offers === 0 ? 'none' : figures.offers}</td>
      <td>{figures.writes}</td>
      <td>{figures.downloads}</td>
      <td>{figures.fileTrips}</td>
      <td className={lost.length > 0 ? 'bad' : ''}>{lost.length === 0 ? 'nothing' : lost.join(', ')}</td>
    </tr>
  );
}
