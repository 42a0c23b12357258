'use client';
import { Select, Switch } from 'antd';
import type { Kit, KitOption, OptionValue } from '@/core/kits/kit';
import type { OptionValues } from '@/core/patch/steps-that-run';

interface Props {
  readonly options: Kit['options'];
  readonly chosen: OptionValues;
  readonly onChange: (chosen: OptionValues) => void;
}

/** What a kit lets the person choose; its own choice stands there until they do. */
export function KitOptions({ options, chosen, onChange }: Props) {
  const list = Object.entries(options);
  if (list.length === 0) return null;
  return (
    <table className="ledger" style={{ marginTop: 10 }} aria-label="Options of the kit">
      <tbody>
        {list.map(([name, option]) => (
          <tr key={name}>
            <td style={{ width: 240 }}>
              <b>{option.title}</b>
            </td>
            <td style={{ width: 180 }}>
              <OptionField
                option={option}
                value={chosen[name] ?? option.default}
                onChange={(value) => onChange({ ...chosen, [name]: value })}
              />
            </td>
            <td className="soft small">{option.explain}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface FieldProps {
  readonly option: KitOption;
  readonly value: OptionValue;
  readonly onChange: (value: OptionValue) => void;
}

function OptionField({ option, value, onChange }: FieldProps) {
  return option.kind === 'bool' ? (
    <Switch size="small" aria-label={option.title} checked={value === true} onChange={onChange} />
  ) : (
    <Select
      size="small"
      aria-label={option.title}
      value={String(value)}
      onChange={onChange}
      options={option.choices.map((choice) => ({ value: choice, label: choice }))}
    />
  );
}
