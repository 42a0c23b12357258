import type { ObservedStep, ObserveExpectation } from './expectation';
import type { Found, Of, Sights } from './found';
import { both, held, lastFact, NOTHING, valuesOf } from './found';

/* Which handset it is, in which mode, with which build, slot and lock. */

/** Steps at which the slot is the one that runs, not the one that is written or read. */
const ABOUT_RUNNING: readonly ObservedStep[] = [
  'read-facts',
  'enter',
  'list',
  'start',
  'start-once',
  'prove-root',
  'prove-stock',
];

/** A handset that may not be asked for its serial is listed without it. */
export const isOwn = ({ serial }: Of<'listed'>, wanted: string | undefined): boolean =>
  wanted === undefined || serial === wanted;
export const UNASKED = /^[?*]+$/;

/** Lines of a list: the expected handset's, or all where none is expected. */
export function ownListed(sights: Sights, { serial, mode }: ObserveExpectation) {
  const listed = sights.of('listed');
  const own = listed.filter(({ sight }) => isOwn(sight, serial));
  const others = listed.filter((one) => !own.includes(one));
  const there = own.at(-1)?.sight.mode;
  return {
    own,
    others: there !== undefined && (mode === undefined || there === mode) ? [] : others,
    aside: others,
  };
}

export function serialFound(sights: Sights, expectation: ObserveExpectation): Found {
  const { own, others } = ownListed(sights, expectation);
  const values = [
    ...valuesOf(sights.facts('serial')),
    ...[...own, ...(own.length > 0 ? [] : others)].map(({ sight, line }) => ({ value: sight.serial, line })),
  ].sort((a, b) => a.line - b.line);
  // a handset that is not the expected one differs, however often the expected one is seen besides
  const other = sights
    .facts('serial')
    .filter(({ sight }) => sight.value !== expectation.serial)
    .at(-1);
  if (other && expectation.serial !== undefined && values.at(-1)?.value !== expectation.serial)
    return held('serial', other.sight.value, other.line, expectation.serial, false);
  return lastFact('serial', values, expectation.serial);
}

export function modeFound(sights: Sights, expectation: ObserveExpectation): Found {
  const { own } = ownListed(sights, expectation);
  const values = [
    ...modeFacts(sights),
    ...own.flatMap(({ sight, line }) =>
      sight.mode === 'offline' || sight.mode === 'no-permission' ? [] : [{ value: sight.mode, line }],
    ),
  ].sort((a, b) => a.line - b.line);
  return lastFact('mode', values, expectation.mode);
}

/** Variables show the bootloader, unless one of them says that user space answers. */
function modeFacts(sights: Sights): { value: string; line: number }[] {
  const facts = sights.facts('mode');
  const userspace = facts.filter(({ sight }) => sight.value === 'userspace' || sight.value === 'recovery');
  return valuesOf(userspace.length > 0 ? userspace : facts).slice(userspace.length > 0 ? 0 : -1);
}

export function productFound(sights: Sights, expectation: ObserveExpectation): Found {
  const listed = ownListed(sights, expectation).own.flatMap(({ sight, line }) =>
    sight.product === null ? [] : [{ value: sight.product, line }],
  );
  const values = [...valuesOf(sights.facts('product')), ...listed];
  return expectation.product === undefined ? NOTHING : lastFact('product', values, expectation.product);
}

export function buildFound(sights: Sights, { build, step }: ObserveExpectation): Found {
  const fingerprints = valuesOf(sights.facts('fingerprint', 'system'));
  const ids = valuesOf(sights.facts('buildId', 'system'));
  if (!build)
    return step === 'read-facts' ? lastFact('build', [...ids, ...fingerprints], undefined) : NOTHING;
  const parts = [
    build.fingerprint === undefined ? NOTHING : lastFact('build', fingerprints, build.fingerprint),
    build.buildId === undefined ? NOTHING : lastFact('build', ids, build.buildId),
  ];
  const { met, differs } = both(parts);
  return differs.length > 0 ? { met: [], differs } : { met, differs };
}

export const slotFound = (sights: Sights, { step, slot }: ObserveExpectation): Found =>
  ABOUT_RUNNING.includes(step) && slot !== undefined
    ? lastFact('slot', valuesOf(sights.facts('slot')), slot)
    : NOTHING;

export function lockFound(sights: Sights, { lock, step }: ObserveExpectation): Found {
  if (lock === undefined) return NOTHING;
  const already = sights
    .of('already')
    .filter(() => step === 'unlock' || step === 'lock')
    .map(({ sight, line }) => ({ value: sight.lock as string, line }));
  const values = [...valuesOf(sights.facts('lock', 'bootloader')), ...already].sort(
    (a, b) => a.line - b.line,
  );
  return lastFact('lock', values, lock);
}
