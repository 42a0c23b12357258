'use client';
import { Checkbox, InputNumber, Select } from 'antd';
import { useState } from 'react';
import type { LimitKey } from '@/contracts/ways-query';
import { LIMIT_RANGE, PLAIN_LIMIT } from '@/core/modules/switch-off';
import type { Limits } from '@/core/planning/context';
import styles from './round.module.css';

const CAUTION_OPTIONS = [
  { value: 'by chance' as const, label: 'modules off by their chance' },
  { value: 'all' as const, label: 'all modules off' },
  { value: 'none' as const, label: 'modules stay on' },
];

interface Tick {
  readonly key: LimitKey;
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
  { key: 'seenFirst', words: 'see the new build start before it is rooted' },
  { key: 'patchedElsewhere', words: 'patched by your provider’s own app: bring it here' },
];

interface Props {
  readonly limits: Limits;
  readonly onChange: (limits: Limits) => void;
}

/** What there is, what must not happen, and how the person would have it. */
export function LimitsForm({ limits, onChange }: Props) {
  return (
    <>
      <div className={styles.ticks}>
        <span className="soft">Limits</span>
        <Ticks ticks={LIMITS} limits={limits} onChange={onChange} />
      </div>
      <div className={styles.ticks}>
        <span className="soft">Wishes</span>
        <Ticks ticks={WISHES} limits={limits} onChange={onChange} />
        <ModulesWish limits={limits} onChange={onChange} />
      </div>
    </>
  );
}

function Ticks({ ticks, limits, onChange }: Props & { readonly ticks: readonly Tick[] }) {
  return ticks.map(({ key, words }) => (
    <Checkbox
      key={key}
      checked={limits[key] === true}
      onChange={(event) => onChange({ ...limits, [key]: event.target.checked })}
    >
      {words}
    </Checkbox>
  ));
}

function ModulesWish({ limits, onChange }: Props) {
  const [over, setOver] = useState<number | null>((limits.modulesLimit ?? PLAIN_LIMIT) * 100);
  const goOver = () => {
    if (over === null || over / 100 === (limits.modulesLimit ?? PLAIN_LIMIT)) return;
    onChange({ ...limits, modulesLimit: over / 100 });
  };
  return (
    <>
      <Select
        aria-label="What happens to its modules"
        size="small"
        style={{ width: 236 }}
        value={limits.modules ?? 'by chance'}
        onChange={(modules) => onChange({ ...limits, modules })}
        options={CAUTION_OPTIONS}
      />
      {(limits.modules ?? 'by chance') === 'by chance' ? (
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
    </>
  );
}
