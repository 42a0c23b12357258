'use client';
import { Button, InputNumber, Select, Upload } from 'antd';
import { useState } from 'react';
import type { PracticeView } from '@/contracts/practice-view';
import { toEternoError } from '@/core/errors';
import type { Pace, Scene } from '@/core/practice/scene';
import {
  MONTH_WORLD,
  MOST_SCENE_BYTES,
  MOST_SEED,
  PACES,
  readSceneFile,
  sceneFile,
  TROUBLE_WORLD,
} from '@/core/practice/scene';
import type { Occasion } from '@/core/practice/surprises';
import { OCCASIONS } from '@/core/practice/surprises';
import { lowerFirst } from '@/core/words/sentence';
import type { SurpriseId } from '@/core/words/surprises';
import { HIDDEN_FAULT_IDS } from '@/core/words/hidden-faults';
import { SURPRISE_WORDS } from '@/core/words/surprises';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { openPracticeAction } from './actions';
import styles from './practice.module.css';

const PACE_WORDS: Readonly<Record<Pace, string>> = {
  1: 'as long as they are',
  5: 'five times as quick',
  20: 'twenty times as quick',
};
const SHORT: Readonly<Record<Occasion, string>> = {
  'restarts-itself': 'a restart',
  'slot-changed': 'the slot',
  'cable-out': 'the cable',
  'prompt-gone': 'the prompt',
};
const INVENTED = 'invented';

interface Begin {
  readonly busy: boolean;
  readonly begin: (scene: Scene) => void;
  /** Of every scene that is begun here. */
  readonly pace: Pace;
  /** A copy of a handset of one's own stands for the invented one. */
  readonly own: boolean;
}

/** The scenes that there are; each makes a world when it is begun. */
export function Scenes({ view, copied }: { readonly view: PracticeView; readonly copied: string | null }) {
  const [pace, setPace] = useState<Pace>(1);
  const [handset, setHandset] = useState(copied);
  const { act, busy, error, setError, dismiss } = useAct();
  const begin = (scene: Scene) =>
    act(() => openPracticeAction({ scene, handsetId: scene.work === null ? handset : null }));
  const all: Begin = { busy, begin, pace, own: handset !== null };
  const open = async (file: File) => {
    try {
      // one byte more than a scene can have says that it is none
      begin(readSceneFile(await bytesOf(file.slice(0, MOST_SCENE_BYTES + 1))));
    } catch (thrown) {
      setError(toEternoError(thrown).toData());
    }
  };
  return (
    <>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <div className={styles.line}>
        <label htmlFor="practice-handset">With</label>
        <Select
          id="practice-handset"
          value={handset ?? INVENTED}
          onChange={(value) => setHandset(value === INVENTED ? null : value)}
          style={{ minWidth: 230 }}
          options={[
            { value: INVENTED, label: 'an invented handset' },
            ...view.handsets.map(({ id, name }) => ({ value: id, label: `a copy of ${name}` })),
          ]}
        />
        <label htmlFor="practice-pace">whose waits pass</label>
        <Select
          id="practice-pace"
          value={pace}
          onChange={setPace}
          style={{ minWidth: 220 }}
          options={PACES.map((value) => ({ value, label: PACE_WORDS[value] }))}
        />
        <Upload
          accept=".json"
          showUploadList={false}
          beforeUpload={(file) => {
            void open(file);
            return false;
          }}
        >
          <Button disabled={busy}>Open a scene that somebody gave you</Button>
        </Upload>
      </div>
      {all.own ? (
        <p className="soft">
          The copy has what is known of it: its builds, slots and ways, its records and shelves. Images that
          the vault does not hold are made up, and so are the packages of its builds.
        </p>
      ) : null}
      {all.own ? <OwnWork all={all} /> : null}
      <Numbered
        all={all}
        kind="trouble"
        title="A handset in trouble"
        button="Begin with trouble"
        text={`A rooted handset has one of ${HIDDEN_FAULT_IDS.length} faults, and says nothing of it. Find it with the Rescue room, and bring the handset back with its data.`}
      />
      <Numbered
        all={all}
        kind="month"
        title="A month with surprises"
        button="Begin the month"
        text={`Its update is out, and three things come up on the way. ${drawnFrom(view.odds)}`}
        odds={view.odds}
      />
      {all.own ? null : <Works works={view.works} all={all} />}
    </>
  );
}

const bytesOf = async (part: Blob) => new Uint8Array(await part.arrayBuffer());

function drawnFrom(odds: PracticeView['odds']): string {
  const known = (Object.keys(odds) as SurpriseId[]).map((id) => lowerFirst(SURPRISE_WORDS[id]));
  return known.length === 0
    ? 'Nothing of the kind is in your own record yet: each is as likely as the others.'
    : `Likelier than the others, by your own record: ${known.join('; ')}.`;
}

/** A scene that a number makes. */
function Numbered({
  all: { own, pace, busy, begin },
  kind,
  title,
  button,
  text,
  odds = null,
}: {
  readonly all: Begin;
  readonly kind: 'trouble' | 'month';
  readonly title: string;
  readonly button: string;
  readonly text: string;
  readonly odds?: Scene['odds'];
}) {
  const [seed, setSeed] = useState(1);
  const world = kind === 'trouble' ? TROUBLE_WORLD : MONTH_WORLD;
  const scene: Scene = { kind, work: own ? null : world, seed, pace, slip: null, odds };
  const id = `practice-${kind}`;
  return (
    <section aria-label={title}>
      <h2>{title}</h2>
      <p className="soft">{text} The same number is always the same scene.</p>
      <div className={styles.line}>
        <label htmlFor={id}>Number</label>
        <InputNumber
          id={id}
          min={0}
          max={MOST_SEED}
          precision={0}
          value={seed}
          onChange={(value) => setSeed(value ?? 0)}
        />
        <Button
          type={kind === 'trouble' && !own ? 'primary' : 'default'}
          disabled={busy}
          onClick={() => begin(scene)}
        >
          {button}
        </Button>
        <SceneFile scene={scene} name={`${kind}-${seed}`} />
      </div>
    </section>
  );
}

/** A copy of one's own handset as it stands, and the usual slips. */
function OwnWork({ all: { pace, busy, begin } }: { readonly all: Begin }) {
  const scene: Scene = { kind: 'work', work: null, seed: 0, pace, slip: null, odds: null };
  return (
    <section aria-label="As it stands now">
      <h2>As it stands now</h2>
      <div className={styles.line}>
        <Button type="primary" disabled={busy} onClick={() => begin(scene)}>
          Begin with the copy
        </Button>
        <span className="soft">or with a slip that comes:</span>
        <SlipButtons slips={OCCASIONS} scene={scene} busy={busy} begin={begin} />
      </div>
    </section>
  );
}

/** Each piece of work, by itself or with one of its usual slips. */
function Works({ works, all: { pace, busy, begin } }: Pick<PracticeView, 'works'> & { readonly all: Begin }) {
  return (
    <section aria-label="Pieces of work">
      <h2>Pieces of work</h2>
      <table className="ledger">
        <thead>
          <tr>
            <th style={{ width: 44 }}>No.</th>
            <th>What is to be done</th>
            <th style={{ width: 260 }}>With a usual slip: what comes</th>
            <th style={{ width: 180 }} aria-label="Begin it" />
          </tr>
        </thead>
        <tbody>
          {works.map(({ n, sentence, slips }) => {
            const scene: Scene = { kind: 'work', work: n, seed: 0, pace, slip: null, odds: null };
            return (
              <tr key={n}>
                <td className="mono">{n}</td>
                <td>{sentence}</td>
                <td>
                  <SlipButtons slips={slips} scene={scene} busy={busy} begin={begin} />
                </td>
                <td style={{ textAlign: 'right' }}>
                  <SceneFile scene={scene} name={`work-${n}`} />{' '}
                  <Button
                    size="small"
                    disabled={busy}
                    aria-label={`Begin number ${n}`}
                    onClick={() => begin(scene)}
                  >
                    Begin
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function SlipButtons({
  slips,
  scene,
  busy,
  begin,
}: { readonly slips: readonly Occasion[]; readonly scene: Scene } & Pick<Begin, 'busy' | 'begin'>) {
  return slips.map((slip) => (
    <Button
      key={slip}
      type="text"
      size="small"
      disabled={busy}
      title={SURPRISE_WORDS[slip]}
      aria-label={`${scene.work === null ? 'Begin' : `Begin number ${scene.work}`}: ${lowerFirst(SURPRISE_WORDS[slip])}`}
      onClick={() => begin({ ...scene, kind: 'slip', slip })}
    >
      {SHORT[slip]}
    </Button>
  ));
}

/** A scene to be given to somebody else. */
function SceneFile({ scene, name }: { readonly scene: Scene; readonly name: string }) {
  return (
    <Button
      type="text"
      size="small"
      href={`data:application/json,${encodeURIComponent(sceneFile(scene))}`}
      download={`scene-${name}.json`}
    >
      As a file
    </Button>
  );
}
