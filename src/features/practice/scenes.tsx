'use client';
import { Button, InputNumber, Select, Upload } from 'antd';
import { useState } from 'react';
import type { PracticeView } from '@/contracts/practice-view';
import type { Pace, Scene } from '@/core/practice/scene';
import { MOST_SEED, PACES, sceneFile, TROUBLE_WORLD } from '@/core/practice/scene';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { openPracticeAction, readSceneAction } from './actions';
import styles from './practice.module.css';

const PACE_WORDS: Readonly<Record<Pace, string>> = {
  1: 'as long as they are',
  5: 'five times as quick',
  20: 'twenty times as quick',
};

/** The scenes that there are; each makes a world when it is begun. */
export function Scenes({ works }: Pick<PracticeView, 'works'>) {
  const [pace, setPace] = useState<Pace>(1);
  const [seed, setSeed] = useState(1);
  const { act, busy, error, dismiss } = useAct();
  const begin = (scene: Scene) => act(() => openPracticeAction(scene));
  const trouble: Scene = { kind: 'trouble', work: TROUBLE_WORLD, seed, pace };
  return (
    <>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <div className={styles.line}>
        <label htmlFor="practice-pace">Its waits pass</label>
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
            act(
              async () => readSceneAction(await file.text()),
              (scene) => begin(scene),
            );
            return false;
          }}
        >
          <Button disabled={busy}>Open a scene that somebody gave you</Button>
        </Upload>
      </div>
      <section aria-label="A handset in trouble">
        <h2>A handset in trouble</h2>
        <p className="soft">
          A rooted handset has one of nine faults, and says nothing of it. Find it with the Rescue room, and
          bring the handset back with its data. The same number is always the same fault.
        </p>
        <div className={styles.line}>
          <label htmlFor="practice-seed">Number</label>
          <InputNumber
            id="practice-seed"
            min={0}
            max={MOST_SEED}
            precision={0}
            value={seed}
            onChange={(value) => setSeed(value ?? 0)}
          />
          <Button type="primary" disabled={busy} onClick={() => begin(trouble)}>
            Begin with trouble
          </Button>
          <SceneFile scene={trouble} name={`trouble-${seed}`} />
        </div>
      </section>
      <section aria-label="Pieces of work">
        <h2>Pieces of work</h2>
        <table className="ledger">
          <tbody>
            {works.map(({ n, sentence }) => {
              const scene: Scene = { kind: 'work', work: n, seed: 0, pace };
              return (
                <tr key={n}>
                  <td className="mono" style={{ width: 44 }}>
                    {n}
                  </td>
                  <td>{sentence}</td>
                  <td style={{ width: 250, textAlign: 'right' }}>
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
    </>
  );
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
