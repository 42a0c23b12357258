'use client';
import { Button, Checkbox, Input, InputNumber, Radio, Select } from 'antd';
import { useState } from 'react';
import type { WayView } from '@/contracts/way-view';
import { WAY_LIMITS } from '@/core/ways/read-way';
import { keyName } from '@/core/ways/speak';
import { choicesOf, SURENESS_WORDS, valueWords } from '@/core/ways/value-words';
import type { HandKey, KeysWay, WayValue } from '@/core/ways/way-kinds';
import { HAND_KEYS } from '@/core/ways/way-kinds';
import { formatDay } from './format';
import styles from './ui.module.css';

/** What is said of a way. */
export interface Said {
  readonly value: WayValue;
  readonly sureness: 'seen done' | 'only said';
  /** Who says so, and where; empty where it was seen. */
  readonly note: string;
}

interface Props {
  readonly way: WayView;
  readonly busy: boolean;
  readonly say: (said: Said, then: () => void) => void;
  /** Takes back what was said; null where nothing was, or this is not the place. */
  readonly forget: (() => void) | null;
}

/** One line of a model's sheet: what is known, how surely and by whom, and a way to say it. */
export function WayRow({ way, busy, say, forget }: Props) {
  const [editing, setEditing] = useState(false);
  return (
    <>
      <tr>
        <td>{way.label}</td>
        <td className={way.sureness === 'guessed' ? 'soft' : undefined}>
          {way.value === null ? <span className="soft">not known</span> : valueWords(way.id, way.value)}
        </td>
        <td className="soft">
          {way.sureness === null ? '' : SURENESS_WORDS[way.sureness]}
          {way.sureness === null || way.sureness === 'guessed' ? '' : `, ${way.source}`}
          {way.at === null ? '' : `, ${formatDay(way.at)}`}
        </td>
        <td className={styles.wayActions}>
          <Button size="small" type="text" onClick={() => setEditing(!editing)}>
            {way.value === null ? 'Say it' : 'Say it otherwise'}
          </Button>
          {forget && way.at !== null ? (
            <Button size="small" type="text" loading={busy} onClick={forget}>
              Take it back
            </Button>
          ) : null}
        </td>
      </tr>
      {editing ? (
        <tr>
          <td />
          <td colSpan={3}>
            <WayForm
              way={way}
              busy={busy}
              say={(said) => say(said, () => setEditing(false))}
              close={() => setEditing(false)}
            />
          </td>
        </tr>
      ) : null}
    </>
  );
}

interface FormProps extends Pick<Props, 'way' | 'busy'> {
  readonly say: (said: Said) => void;
  readonly close: () => void;
}

/** How it is said: by keys, by a choice or in words, and whether it was seen. */
export function WayForm({ way, busy, say, close }: FormProps) {
  const [value, setValue] = useState<WayValue | null>(way.value);
  const [sureness, setSureness] = useState<Said['sureness']>('seen done');
  const [note, setNote] = useState('');
  return (
    <div className={styles.wayForm}>
      <WayInput way={way} value={value} onChange={setValue} />
      <Radio.Group
        aria-label="How sure"
        value={sureness}
        onChange={(event) => setSureness(event.target.value as Said['sureness'])}
        options={[
          { value: 'seen done', label: 'I saw it so' },
          { value: 'only said', label: 'somebody says so' },
        ]}
      />
      {sureness === 'only said' ? (
        <Input
          aria-label="Who says so"
          placeholder="Who, where and when"
          maxLength={WAY_LIMITS.text}
          style={{ width: 260 }}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
      ) : null}
      <Button
        loading={busy}
        disabled={value === null || isEmpty(value)}
        onClick={() => value !== null && say({ value, sureness, note: sureness === 'only said' ? note : '' })}
      >
        Keep it for this model
      </Button>
      <Button type="text" onClick={close}>
        Leave it
      </Button>
    </div>
  );
}

const isEmpty = (value: WayValue) =>
  typeof value === 'string' ? value.trim() === '' : ('keys' in value ? value.keys : value).length === 0;

interface InputProps {
  readonly way: WayView;
  readonly value: WayValue | null;
  readonly onChange: (value: WayValue) => void;
}

function WayInput({ way, value, onChange }: InputProps) {
  switch (way.form) {
    case 'keys':
      return <KeysInput label={way.label} value={value as KeysWay | null} onChange={onChange} />;
    case 'choice':
      return (
        <Select
          aria-label={way.label}
          style={{ width: 320 }}
          value={value as string | null}
          onChange={(next: string) => onChange(next as WayValue)}
          options={Object.entries(choicesOf(way.id)).map(([one, label]) => ({ value: one, label }))}
        />
      );
    case 'list':
      return (
        <Input.TextArea
          aria-label={way.label}
          placeholder="One a line"
          autoSize={{ minRows: 2, maxRows: 8 }}
          style={{ width: 420 }}
          value={((value as readonly string[] | null) ?? []).join('\n')}
          onChange={(event) =>
            onChange(
              event.target.value === ''
                ? []
                : event.target.value.split('\n').filter((one, i, all) => one !== '' || i === all.length - 1),
            )
          }
        />
      );
    case 'text':
      return (
        <Input
          aria-label={way.label}
          placeholder="As it stands on the handset"
          maxLength={WAY_LIMITS.text}
          style={{ width: 420 }}
          value={(value as string | null) ?? ''}
          onChange={(event) => onChange(event.target.value)}
        />
      );
  }
}

function KeysInput({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: KeysWay | null;
  readonly onChange: (value: KeysWay) => void;
}) {
  const now: KeysWay = value ?? { keys: [], seconds: 3 };
  return (
    <>
      <Checkbox.Group
        aria-label={`${label}: keys`}
        value={[...now.keys]}
        onChange={(keys) => onChange({ ...now, keys: keys as HandKey[] })}
        options={HAND_KEYS.map((key) => ({ value: key, label: keyName(key) }))}
      />
      <InputNumber
        aria-label={`${label}: seconds`}
        min={1}
        max={WAY_LIMITS.seconds}
        value={now.seconds}
        onChange={(seconds) => onChange({ ...now, seconds: seconds ?? now.seconds })}
        addonAfter="s"
        style={{ width: 90 }}
      />
      <Checkbox
        checked={now.cable === true}
        onChange={({ target }) => {
          const { keys, seconds } = now;
          onChange(target.checked ? { keys, seconds, cable: true } : { keys, seconds });
        }}
      >
        cable in
      </Checkbox>
    </>
  );
}
