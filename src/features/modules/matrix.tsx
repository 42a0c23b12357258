import { Checkbox, Input, Select, Switch } from 'antd';
import { useMemo, useState } from 'react';
import type { Matrix as Told, MatrixRow } from '@/contracts/module-view';
import type { ModuleOutcome } from '@/core/modules/chance';
import { formatDay } from '@/ui/format';
import { layOutMatrix, OUTCOME_WORDS } from './matrix-layout';
import styles from './modules.module.css';

const WIDTH = 1220;
const KINDS: Readonly<Record<MatrixRow['kind'], string>> = {
  kit: 'Kit',
  recovery: 'Recovery',
  module: 'Module',
};

/** Shape first, colour second: a dot, a cross, a triangle. */
export function OutcomeMark({
  outcome,
  x = 8,
  y = 8,
}: {
  readonly outcome: ModuleOutcome;
  readonly x?: number;
  readonly y?: number;
}) {
  if (outcome === 'worked') return <circle cx={x} cy={y} r={3.6} fill="var(--ink)" />;
  if (outcome === 'looped')
    return (
      <path d={`M${x - 4.5} ${y - 4.5}l9 9m0-9l-9 9`} stroke="var(--bad)" strokeWidth={2.2} fill="none" />
    );
  return <path d={`M${x} ${y - 5}l5 9h-10z`} stroke="var(--wait)" strokeWidth={1.8} fill="none" />;
}

/** Kits, recoveries and modules against builds: what is known of each pair. */
export function Matrix({
  matrix,
  product: first,
}: {
  readonly matrix: Told;
  readonly product: string | null;
}) {
  const [text, setText] = useState('');
  const [product, setProduct] = useState(first);
  const [trouble, setTrouble] = useState(false);
  const [asTable, setAsTable] = useState(false);
  const layout = useMemo(
    () => layOutMatrix(matrix, { text, product, trouble }, WIDTH),
    [matrix, text, product, trouble],
  );
  const products = [...new Set(matrix.columns.map((column) => column.product))];
  return (
    <section aria-label="What is known of each on each build">
      <h2 style={{ marginTop: 22 }}>Against builds</h2>
      <div className={styles.filters}>
        <Input
          aria-label="Find a row"
          placeholder="Find a kit, recovery or module"
          style={{ width: 240 }}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Select
          aria-label="Builds of"
          style={{ width: 190 }}
          value={product ?? ''}
          onChange={(value) => setProduct(value === '' ? null : value)}
          options={[
            { value: '', label: 'Builds of all models' },
            ...products.map((value) => ({ value, label: value })),
          ]}
        />
        <Checkbox checked={trouble} onChange={(event) => setTrouble(event.target.checked)}>
          only where something broke
        </Checkbox>
        <span className={styles.legend}>
          {(['worked', 'misbehaved', 'looped'] as const).map((outcome) => (
            <span key={outcome}>
              <svg width={16} height={16} aria-hidden="true">
                <OutcomeMark outcome={outcome} />
              </svg>
              {OUTCOME_WORDS[outcome]}
            </span>
          ))}
          <span>empty: never tried</span>
        </span>
        <span>
          <Switch size="small" checked={asTable} onChange={setAsTable} aria-label="As a table" /> as a table
        </span>
      </div>
      {layout.rows.length === 0 ? (
        <p className="soft">Nothing of that name is known here.</p>
      ) : asTable ? (
        <MatrixTable layout={layout} />
      ) : (
        <MatrixDrawing layout={layout} />
      )}
    </section>
  );
}

function MatrixDrawing({ layout }: { readonly layout: ReturnType<typeof layOutMatrix> }) {
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${layout.width} ${layout.height}`}
      style={{ maxWidth: layout.width, display: 'block' }}
      role="img"
      aria-label="What is known of each on each build; the same as a table by the switch above"
    >
      {layout.columns.map((column) => (
        <g key={column.fingerprint}>
          <path d={`M${column.x} 100V${layout.height - 4}`} stroke="var(--faint)" />
          <text
            transform={`translate(${column.x + 3} 96) rotate(-52)`}
            fontSize={11}
            fontFamily="var(--mono)"
            fill="var(--soft)"
          >
            {column.buildId}
          </text>
        </g>
      ))}
      {layout.rows.map(({ row, y, cells }) => (
        <g key={`${row.kind}${row.id}`}>
          <path
            d={`M0 ${y + 11}H${layout.width - 60}`}
            stroke={row.kind === 'module' ? 'var(--faint)' : 'var(--line)'}
          />
          <text x={0} y={y + 4} fontSize={12.5} fill="var(--ink)">
            {row.name.length > 24 ? `${row.name.slice(0, 23)}…` : row.name}
            <title>{`${KINDS[row.kind]}: ${row.name}`}</title>
          </text>
          {cells.map((cell) => (
            <g key={cell.build + cell.x}>
              <title>{`${row.name} on ${cell.build}: ${OUTCOME_WORDS[cell.outcome]}, tried ${cell.trials === 1 ? 'once' : `${cell.trials} times`}, last ${formatDay(cell.at)}${cell.note ? `; ${cell.note}` : ''}`}</title>
              <rect x={cell.x - 9} y={y - 9} width={18} height={18} fill="transparent" />
              <OutcomeMark outcome={cell.outcome} x={cell.x} y={y} />
            </g>
          ))}
        </g>
      ))}
    </svg>
  );
}

function MatrixTable({ layout }: { readonly layout: ReturnType<typeof layOutMatrix> }) {
  return (
    <table className="ledger">
      <thead>
        <tr>
          <th>What</th>
          <th>Build</th>
          <th>Result</th>
          <th className="num">Tried</th>
          <th>Last</th>
          <th>Note</th>
        </tr>
      </thead>
      <tbody>
        {layout.rows.flatMap(({ row, cells }) =>
          cells.length === 0
            ? [
                <tr key={row.kind + row.id}>
                  <td>{row.name}</td>
                  <td colSpan={5} className="soft">
                    never tried on these builds
                  </td>
                </tr>,
              ]
            : cells.map((cell) => (
                <tr key={row.kind + row.id + cell.build + cell.x}>
                  <td>{row.name}</td>
                  <td className="mono">{cell.build}</td>
                  <td
                    className={
                      cell.outcome === 'looped' ? 'bad' : cell.outcome === 'misbehaved' ? 'wait' : ''
                    }
                  >
                    {OUTCOME_WORDS[cell.outcome]}
                  </td>
                  <td className="num">{cell.trials}</td>
                  <td>{formatDay(cell.at)}</td>
                  <td className="small">{cell.note}</td>
                </tr>
              )),
        )}
      </tbody>
    </table>
  );
}
