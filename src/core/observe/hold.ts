import type { What } from '../words/observe';
import { MISSING_NEXT, otherwiseNext } from '../words/observe';
import type { PrintedLine } from './clean-lines';
import { cleanLines } from './clean-lines';
import type {
  Differs,
  Fault,
  Met,
  Observation,
  ObservedStep,
  ObserveExpectation,
  Witness,
} from './expectation';
import { faultOf } from './faults';
import type { Found, Of, Seen } from './found';
import { both, NOTHING, Sights } from './found';
import { ownFaults, ownWordsFound } from './own-words';
import { writtenParts } from './parts';
import { hashFound, namedHashFound, rootFound } from './proofs';
import type { Sight } from './sights';
import { sightsOf } from './sights';
import { pushFound, sendFound, sideloadFound, writeFound } from './transfers';
import {
  buildFound,
  isOwn,
  lockFound,
  modeFound,
  ownListed,
  productFound,
  serialFound,
  slotFound,
  UNASKED,
} from './who';

/* What was printed, held against what a step expects (docs/method.md, "Expectation and observation"). */

/** What has to be seen at each step; of what is expected besides, nothing may differ. */
const NEEDS: Readonly<Record<ObservedStep, readonly What[]>> = {
  'read-facts': ['build', 'serial'],
  enter: ['mode', 'serial'],
  list: ['mode', 'serial'],
  write: ['transfer'],
  start: ['build', 'slot'],
  'start-once': ['mode'],
  unlock: ['lock'],
  lock: ['lock'],
  push: ['transfer'],
  sideload: ['transfer'],
  erase: ['transfer'],
  'prove-root': ['root'],
  'prove-stock': ['root'],
  'read-back': ['hash'],
};
const FOUND_AT: Readonly<
  Partial<Record<ObservedStep, readonly ((sights: Sights, expectation: ObserveExpectation) => Found)[]>>
> = {
  write: [writeFound, namedHashFound],
  erase: [writeFound],
  push: [pushFound, namedHashFound],
  sideload: [sideloadFound],
  'start-once': [sendFound],
  'read-back': [hashFound],
  'prove-root': [hashFound],
};

/** The lines that say a fault, but for those that are none at this step. */
function faultsIn(
  lines: readonly PrintedLine[],
  sightsAt: ReadonlyMap<PrintedLine, readonly Sight[] | null>,
  expectation: ObserveExpectation,
): Fault[] {
  const locks = expectation.step === 'unlock' || expectation.step === 'lock';
  return lines.flatMap((line): Fault[] => {
    const kinds = sightsAt.get(line)?.map(({ kind }) => kind) ?? [];
    if (kinds.includes('mount-error') || kinds.includes('last-answer') || line.typed) return [];
    if (kinds.includes('already')) return locks ? [] : [{ id: 'already', line: line.n }];
    const listed = sightsAt.get(line)?.find((one): one is Of<'listed'> => one.kind === 'listed');
    if (listed) return listedFault(listed, line.n, expectation);
    const id = faultOf(line.text, expectation);
    return id === null ? [] : [{ id, line: line.n }];
  });
}

const listedFault = (listed: Of<'listed'>, line: number, { serial }: ObserveExpectation): Fault[] => {
  if (!isOwn(listed, serial) && !UNASKED.test(listed.serial)) return [];
  if (listed.mode === 'offline') return [{ id: 'link-lost', line }];
  return listed.mode === 'no-permission' ? [{ id: 'no-permission', line }] : [];
};

/** Of several the first that says why. */
const theFault = (faults: readonly Fault[]): Fault | null =>
  faults.find(({ id }) => id !== 'refused') ?? faults[0] ?? null;

/**
 * Holds what a handset or a tool printed against what a step expects of it.
 * @param text as it was printed or copied
 * @throws {EternoError} `too-large`
 */
export function observe(expectation: ObserveExpectation, text: string): Observation {
  const lines = cleanLines(text);
  const sightsAt = new Map(lines.map((line) => [line, sightsOf(line)] as const));
  const sights = new Sights(
    lines.flatMap((line) => (sightsAt.get(line) ?? []).map((sight) => ({ sight, line: line.n }))),
  );
  const allFaults = [...faultsIn(lines, sightsAt, expectation), ...ownFaults(lines, expectation)];
  const found = both([
    ...[modeFound, serialFound, productFound, buildFound, slotFound, lockFound].map((look) =>
      look(sights, expectation),
    ),
    ...(FOUND_AT[expectation.step] ?? []).map((look) => look(sights, expectation)),
    ownWordsFound(lines, expectation),
    rootAt(sights, expectation, allFaults),
  ]);
  const faults = stillFaults(allFaults, sights, expectation, found);
  const { met, differs } = relevant(found, expectation);
  const missing = needsOf(expectation).filter(
    (what) => !met.some((one) => one.what === what) && !differs.some((one) => one.what === what),
  );
  const fault = theFault(faults);
  const verdict = differs.length > 0 || fault ? 'otherwise' : missing.length > 0 ? 'not-enough' : 'met';
  const harmless = harmlessIn(sights, expectation, met);
  return {
    verdict,
    witness: witnessOf(sights, expectation),
    met,
    differs,
    missing: verdict === 'met' ? [] : missing,
    harmless,
    fault,
    ...(expectation.parts ? { written: writtenParts(sights, expectation.parts) } : {}),
    unknown: unknownIn(lines, sightsAt, [...allFaults, ...met], harmless),
    next: nextOf(verdict, fault, differs, missing),
  };
}

const rootAt = (sights: Sights, expectation: ObserveExpectation, faults: readonly Fault[]): Found =>
  expectation.step === 'prove-root' || expectation.step === 'prove-stock'
    ? rootFound(sights, expectation, faults)
    : NOTHING;

/** What of the faults is one at this step after all that was seen. */
function stillFaults(
  faults: readonly Fault[],
  sights: Sights,
  { step }: ObserveExpectation,
  { met }: Found,
): Fault[] {
  const own = step === 'prove-stock' ? faults.filter(({ id }) => id !== 'no-root') : [...faults];
  const last = sights.of('last-answer').at(-1);
  const done = met.some(({ what }) => what === 'transfer');
  if (last && step === 'sideload' && !done) own.push({ id: 'cut-short', line: last.line });
  const uneven = cutCopy(sights);
  if (step === 'write' && uneven !== null && !done) own.push({ id: 'cut-short', line: uneven });
  const rooted = step === 'prove-root' && met.some(({ what }) => what === 'root');
  // asked again after a refusal, and allowed
  const rootLine = met.find(({ what }) => what === 'root')?.line ?? 0;
  return rooted
    ? own.filter(({ id, line }) => line > rootLine || !['root-denied', 'no-root'].includes(id))
    : own;
}

/** Line at which a block copy says that less went out than came in. */
function cutCopy(sights: Sights): number | null {
  const records = sights.of('records');
  const into = records.filter(({ sight }) => sight.way === 'in').at(-1);
  const out = records.filter(({ sight }) => sight.way === 'out').at(-1);
  return into && out && into.sight.whole !== out.sight.whole ? out.line : null;
}

/** What the step is about; a mode, serial or code name that differs counts always. */
function relevant({ met, differs }: Found, expectation: ObserveExpectation): Found {
  const needs = needsOf(expectation);
  const expected: Readonly<Partial<Record<What, unknown>>> = {
    mode: expectation.mode,
    serial: expectation.serial,
    product: expectation.product,
  };
  const differing = new Set(differs.map(({ what }) => what));
  return {
    differs,
    met: met.filter(
      ({ what }) =>
        !differing.has(what) && (needs.includes(what) || !(what in expected) || expected[what] !== undefined),
    ),
  };
}

/** What has to be seen at a step. */
export function needsOf({ step, serial, slot, build, also = [] }: ObserveExpectation): readonly What[] {
  return [...NEEDS[step], ...also].filter((what) => {
    if (what === 'serial') return serial !== undefined || step !== 'read-facts';
    if (what === 'slot') return slot !== undefined;
    return what !== 'build' || build !== undefined || step === 'read-facts';
  });
}

function harmlessIn(
  sights: Sights,
  expectation: ObserveExpectation,
  met: readonly Met[],
): Observation['harmless'] {
  const why = (seen: readonly Seen[], words: string) => seen.map(({ line }) => ({ line, why: words }));
  const there = met.some(({ what }) => what === 'transfer' || what === 'mode' || what === 'serial');
  const { own, others, aside } = ownListed(sights, expectation);
  return [
    ...(there ? why(sights.of('waiting'), 'It waited first; the handset came afterwards.') : []),
    ...(expectation.freshWipe
      ? why(sights.of('mount-error'), 'Its data was erased just now, so there is nothing to mount yet.')
      : []),
    ...(met.some(({ what }) => what === 'transfer')
      ? why(sights.of('last-answer'), 'Everything was sent; only the last answer was not read.')
      : []),
    ...(own.length > 0 && others.length === 0 ? why(aside, 'Another handset that is listed besides.') : []),
  ].sort((a, b) => a.line - b.line);
}

function unknownIn(
  lines: readonly PrintedLine[],
  sightsAt: ReadonlyMap<PrintedLine, readonly Sight[] | null>,
  told: readonly { readonly line: number }[],
  harmless: Observation['harmless'],
): number[] {
  const known = new Set([...told, ...harmless].map(({ line }) => line));
  return [
    ...new Set(lines.filter((line) => sightsAt.get(line) === null && !known.has(line.n)).map(({ n }) => n)),
  ];
}

const BY_TOOL: readonly ObservedStep[] = ['write', 'erase', 'push', 'sideload', 'list'];

function witnessOf(sights: Sights, { step }: ObserveExpectation): Witness | null {
  const facts = sights.of('fact').at(-1)?.sight.witness ?? null;
  const tool = sights.all.some(({ sight }) => !['fact', 'noise', 'uid', 'hash'].includes(sight.kind));
  const shell = sights.of('uid', 'hash').length > 0;
  if (BY_TOOL.includes(step) && tool) return 'tool';
  if (shell && (step.startsWith('prove') || step === 'read-back')) return 'system';
  return facts ?? (shell ? 'system' : tool ? 'tool' : null);
}

function nextOf(
  verdict: Observation['verdict'],
  fault: Fault | null,
  differs: readonly Differs[],
  missing: readonly What[],
): string {
  if (verdict === 'met') return 'Go on with the next step.';
  return verdict === 'otherwise'
    ? otherwiseNext(
        fault?.id ?? null,
        differs.map(({ what }) => what),
      )
    : missing.map((what) => MISSING_NEXT[what]).join(' ');
}
