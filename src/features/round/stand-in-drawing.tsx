import { lowerFirst } from '@/core/words/sentence';
import type { ReactNode } from 'react';
import type { ScreenModel } from '@/core/handset/screen';

const GLASS = { x: 34, y: 30, width: 172, height: 270 } as const;
const LEFT = GLASS.x + 14;

function Line({
  y,
  children,
  size = 12,
  weight = 400,
  fill = 'var(--ink)',
}: {
  y: number;
  children: ReactNode;
  size?: number;
  weight?: number;
  fill?: string;
}) {
  return (
    <text x={LEFT} y={y} fontSize={size} fontWeight={weight} fill={fill}>
      {children}
    </text>
  );
}

const WIDE = 24;
/** A line of the handset's own words, broken where its screen ends. */
function lines(text: string): string[] {
  const out: string[] = [];
  for (const word of text.split(' ')) {
    const last = out.at(-1);
    if (last !== undefined && `${last} ${word}`.length <= WIDE) out[out.length - 1] = `${last} ${word}`;
    else out.push(word);
  }
  return out.slice(0, 4);
}

function Menu({ screen }: { screen: Extract<ScreenModel, { kind: 'menu' }> }) {
  const top = 72 + screen.facts.length * 16;
  return (
    <>
      <Line y={54} size={14} weight={640}>
        {screen.title}
      </Line>
      {screen.facts.map(([name, value], i) => (
        <g key={name}>
          <Line y={73 + i * 16} size={10.5} fill="var(--soft)">
            {name}
          </Line>
          <text x={LEFT + 60} y={73 + i * 16} fontSize={10.5} fontFamily="var(--mono)" fill="var(--ink)">
            {value.length > 15 ? `${value.slice(0, 14)}…` : value}
          </text>
        </g>
      ))}
      {screen.busy ? (
        <Line y={top + 24} size={11.5} weight={640} fill="var(--wait)">
          {screen.busy.length > 27 ? `${screen.busy.slice(0, 26)}…` : screen.busy}
        </Line>
      ) : (
        screen.menu.map((item, i) => (
          <g key={item}>
            {i === screen.chosen ? (
              <rect
                x={LEFT - 7}
                y={top + 5 + i * 20}
                width={GLASS.width - 14}
                height={18}
                fill="none"
                stroke="var(--ink)"
              />
            ) : null}
            <Line y={top + 18 + i * 20} size={11} weight={i === screen.chosen ? 640 : 400}>
              {item.length > 27 ? `${item.slice(0, 26)}…` : item}
            </Line>
          </g>
        ))
      )}
      {screen.said === null || screen.busy ? null : <Said text={screen.said} />}
    </>
  );
}

/** What it said last, at the foot of its screen. */
function Said({ text }: { text: string }) {
  const said = lines(text);
  return (
    <>
      {said.map((line, i) => (
        <Line key={line} y={294 - (said.length - 1 - i) * 13} size={10} fill="var(--soft)">
          {line}
        </Line>
      ))}
    </>
  );
}

function Starting({ screen }: { screen: Extract<ScreenModel, { kind: 'starting' }> }) {
  const again = screen.loops > 0;
  return (
    <>
      <path
        d="M90 128q30 -34 60 0q-30 34 -60 0Z"
        fill="none"
        stroke={again ? 'var(--bad)' : 'var(--ink)'}
        strokeWidth={2}
      />
      <text
        x={120}
        y={182}
        fontSize={13}
        fontWeight={640}
        textAnchor="middle"
        fill={again ? 'var(--bad)' : 'var(--ink)'}
      >
        {again ? `Starting again, ${screen.loops} so far` : 'Starting'}
      </text>
      {screen.warning ? (
        <text x={120} y={280} fontSize={10.5} textAnchor="middle" fill="var(--soft)">
          {screen.warning}
        </text>
      ) : null}
    </>
  );
}

function System({ screen }: { screen: Extract<ScreenModel, { kind: 'system' }> }) {
  return (
    <>
      <text x={120} y={72} fontSize={25} textAnchor="middle" fill="var(--ink)">
        Trail log
      </text>
      <text x={120} y={92} fontSize={11} fontFamily="var(--mono)" textAnchor="middle" fill="var(--soft)">
        {screen.build}
      </text>
      <text x={120} y={108} fontSize={11} textAnchor="middle" fill="var(--soft)">
        {screen.slot === '' ? '' : `slot ${screen.slot}`}
      </text>
      {screen.busy ? (
        <text x={120} y={150} fontSize={12} fontWeight={640} textAnchor="middle" fill="var(--wait)">
          {screen.busy}
        </text>
      ) : screen.asksForRoot ? (
        <g>
          <rect
            x={GLASS.x + 8}
            y={150}
            width={GLASS.width - 16}
            height={88}
            fill="var(--paper)"
            stroke="var(--root)"
            strokeWidth={1.6}
          />
          <Line y={172} size={12.5} weight={640}>
            Somebody asks for root
          </Line>
          <Line y={196} size={11.5}>
            Volume up: allow
          </Line>
          <Line y={216} size={11.5}>
            Volume down: deny
          </Line>
        </g>
      ) : (
        screen.touches.map(({ id, label }, i) => (
          <g key={id}>
            <path d={`M${LEFT} ${146 + i * 22}H${GLASS.x + GLASS.width - 14}`} stroke="var(--line)" />
            <Line y={140 + i * 22} size={11.5}>
              {label}
            </Line>
          </g>
        ))
      )}
      {screen.said === null || screen.busy ? null : <Said text={screen.said} />}
    </>
  );
}

/** The simulated handset: one frame, its screen, its keys on the right edge. */
export function StandInDrawing({ screen, cable }: { screen: ScreenModel; cable: boolean }) {
  return (
    <svg
      width="100%"
      viewBox="0 0 250 345"
      style={{ display: 'block', maxWidth: 250, margin: '0 auto' }}
      role="img"
      aria-label={describe(screen)}
    >
      <path d="M36 10h168l16 16v284l-16 12H36l-16 -12V26Z" fill="var(--status)" />
      <rect {...GLASS} fill={screen.kind === 'dark' ? '#0b0a09' : 'var(--sheet)'} />
      {screen.kind === 'menu' ? <Menu screen={screen} /> : null}
      {screen.kind === 'starting' ? <Starting screen={screen} /> : null}
      {screen.kind === 'system' ? <System screen={screen} /> : null}
      <path d="M222 84h6v26h-6ZM222 116h6v26h-6Z" fill="var(--status)" />
      <path d="M222 164h6v24h-6Z" fill="var(--soft)" />
      {cable ? (
        <path d="M120 322v22" stroke="var(--ink)" strokeWidth={4} />
      ) : (
        <path d="M120 336v8" stroke="var(--bad)" strokeWidth={4} />
      )}
    </svg>
  );
}

function describe(screen: ScreenModel): string {
  switch (screen.kind) {
    case 'dark':
      return 'Screen: dark';
    case 'menu':
      return screen.busy
        ? `Screen: ${lowerFirst(screen.title)}, ${screen.busy}`
        : `Screen: ${lowerFirst(screen.title)}${screen.menu.length > 0 ? `, ${screen.menu[screen.chosen]} is chosen` : ''}`;
    case 'starting':
      return screen.loops > 0 ? `Screen: starting again, ${screen.loops} so far` : 'Screen: starting';
    case 'system':
      return `Screen: system, build ${screen.build}${screen.slot === '' ? '' : `, slot ${screen.slot}`}${screen.asksForRoot ? ', asks for root' : ''}`;
  }
}
