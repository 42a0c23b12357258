import type { HandsetDetail } from '@/contracts/handset-view';
import { levelMarks } from './patch-level-layout';
import { dataWords } from '@/core/words/floors';

const WIDTH = 460;
const SIGNS: Readonly<Record<HandsetDetail['data']['verdict'], string>> = {
  opens: '✓ opens',
  'may not open': '✗ may not open',
  "can't tell": '? can’t tell',
};

/** Image, system and data patch levels on one line, and what that means. */
export function PatchLevelLine({
  verdict,
  says,
  image,
  system,
  data,
}: HandsetDetail['data'] & { now: number }) {
  const levels = [
    ['image', image],
    ['system', system],
    ['data', data],
  ] as const;
  const { marks, months } = levelMarks(levels, WIDTH);
  return (
    <>
      <p className={verdict === 'may not open' ? 'bad' : ''}>
        <b>{SIGNS[verdict]}</b>: {dataWords(says)}
      </p>
      {marks.length > 0 ? (
        <svg
          viewBox={`0 0 ${WIDTH} 62`}
          width="100%"
          style={{ maxWidth: WIDTH }}
          role="img"
          aria-label={levels.map(([label, level]) => `${label} ${level ?? 'not known'}`).join(', ')}
        >
          <line x1="0" x2={WIDTH} y1="34" y2="34" stroke="var(--ink)" />
          {months.map((month) => (
            <g key={month.label} transform={`translate(${month.x} 34)`}>
              <line y1="-3" y2="3" stroke="var(--soft)" />
              <text y="20" textAnchor="middle" fontSize="11" fill="var(--soft)" fontFamily="var(--mono)">
                {month.label}
              </text>
            </g>
          ))}
          {marks.map((mark) => (
            <g key={mark.label} transform={`translate(${mark.x} 34)`}>
              <line y1="-14" y2="0" stroke="var(--ink)" strokeWidth="1.5" />
              <circle r="4" fill="var(--ink)" />
              <text y="-19" textAnchor="middle" fontSize="12" fill="var(--ink)">
                {mark.label}
              </text>
            </g>
          ))}
        </svg>
      ) : null}
    </>
  );
}
