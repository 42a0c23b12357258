import type { CauseId, CheckId, SymptomId } from '../words/rescue';

/*
 * What may be behind trouble: how often, how it shows, and what a check says where it is so (docs/method.md,
 * "Rescue"). All of it stated, by what is told of such cases; closed cases count beside it.
 */

/** Chance of a symptom, or an answer, that nothing of a cause leads to: people look wrongly, and things happen twice. */
export const NOISE = 0.02;

export interface Cause {
  /** Of a hundred handsets in trouble, before anything is known. */
  readonly prior: number;
  /** How sure the number is. */
  readonly sureness: 'only said' | 'guessed';
  /** Chance that it shows so. */
  readonly shows: Readonly<Partial<Record<SymptomId, number>>>;
}

const said = (prior: number, shows: Cause['shows']): Cause => ({ prior, sureness: 'only said', shows });
const guess = (prior: number, shows: Cause['shows']): Cause => ({ prior, sureness: 'guessed', shows });

export const CAUSES: Readonly<Record<CauseId, Cause>> = {
  'slow-start': said(5, { logo: 0.8, loops: 0.1 }),
  battery: said(4, { dead: 0.8, 'not-listed': 0.5, 'in-bootloader': 0.1 }),
  module: said(12, { loops: 0.75, logo: 0.35, 'root-denied': 0.05 }),
  'root-image': said(14, { loops: 0.6, logo: 0.35, 'in-bootloader': 0.35, 'recovery-dead': 0.2 }),
  kit: guess(4, { loops: 0.6, logo: 0.2, 'no-root': 0.4 }),
  'vendor-boot': said(3, {
    loops: 0.5,
    logo: 0.4,
    'recovery-dead': 0.5,
    'touch-dead': 0.2,
    'radio-dead': 0.2,
  }),
  'half-build': said(5, { loops: 0.5, 'in-bootloader': 0.4, logo: 0.2, 'recovery-dead': 0.3 }),
  tries: guess(3, { 'in-bootloader': 0.7, 'in-recovery': 0.2, loops: 0.1 }),
  'wrong-slot': said(4, { loops: 0.4, 'in-bootloader': 0.3, 'no-root': 0.4, 'in-recovery': 0.2 }),
  data: said(5, { 'in-recovery': 0.5, 'asks-password': 0.5, loops: 0.4, 'storage-unreadable': 0.3 }),
  snapshot: guess(2, { loops: 0.4, 'in-recovery': 0.3, 'update-refused': 0.5 }),
  bootloader: said(1, { dead: 0.95, 'not-listed': 0.8 }),
  'stock-on-disk': said(12, { 'no-root': 0.95, 'root-denied': 0.2 }),
  'root-app': said(6, { 'root-denied': 0.9, 'no-root': 0.2 }),
  'put-back': said(4, { 'recovery-stock': 0.95, 'recovery-dead': 0.1 }),
  'recovery-image': said(2, { 'recovery-dead': 0.85, loops: 0.05, 'touch-dead': 0.1 }),
  'recovery-release': said(4, { 'storage-unreadable': 0.8, 'asks-password': 0.5, 'zip-unseen': 0.4 }),
  'not-stock': said(4, { 'update-refused': 0.95 }),
  'wrong-package': said(3, { 'update-refused': 0.8, 'write-refused': 0.3 }),
  'shut-bootloader': said(4, { 'write-refused': 0.95 }),
  'file-place': said(2, { 'zip-unseen': 0.95 }),
  cable: said(7, { 'not-listed': 0.95, 'write-refused': 0.15 }),
  driver: said(4, { 'not-listed': 0.95 }),
  'debugging-off': said(3, { 'not-listed': 0.9 }),
  hardware: guess(1, { dead: 0.5, 'touch-dead': 0.4, 'radio-dead': 0.4, loops: 0.2, logo: 0.2 }),
};
export const CAUSE_IDS = Object.keys(CAUSES) as readonly CauseId[];

/** What each answer's chance is where a cause is behind it; of the others what stands as `else`. */
type Says<A extends string> = {
  readonly minutes: number;
  /** Symptoms that it can be asked about; all of them where none is named. */
  readonly about?: readonly SymptomId[];
  readonly else: Readonly<Record<A, number>>;
} & { readonly [C in CauseId]?: Readonly<Record<A, number>> };

/** What is seen of one that does not come up to its system. */
export const NOT_STARTING: readonly SymptomId[] = [
  'loops',
  'logo',
  'in-recovery',
  'in-bootloader',
  'asks-password',
  'dead',
];
const STARTED: readonly SymptomId[] = ['no-root', 'root-denied'];
const yes = (chance: number) => ({ yes: chance, no: 1 - chance });

export const CHECKS: { readonly [C in CheckId]: Says<string> } = {
  'wait-first': {
    minutes: 5,
    about: ['logo', 'loops'],
    else: { starts: 0.01, same: 0.99 },
    'slow-start': { starts: 0.95, same: 0.05 },
    tries: { starts: 0.1, same: 0.9 },
  },
  'charge-first': {
    minutes: 10,
    about: ['dead'],
    else: { shows: 0.3, dark: 0.7 },
    battery: { shows: 0.95, dark: 0.05 },
    bootloader: { shows: 0.01, dark: 0.99 },
    hardware: { shows: 0.1, dark: 0.9 },
  },
  'opens-bootloader': {
    minutes: 1,
    about: NOT_STARTING,
    else: yes(0.97),
    battery: yes(0.1),
    bootloader: yes(0.01),
    hardware: yes(0.5),
  },
  'opens-recovery': {
    minutes: 1.5,
    about: [...NOT_STARTING, 'recovery-stock', 'recovery-dead'],
    else: { own: 0.35, stock: 0.6, no: 0.05 },
    'root-image': { own: 0.25, stock: 0.4, no: 0.35 },
    'vendor-boot': { own: 0.1, stock: 0.2, no: 0.7 },
    'half-build': { own: 0.1, stock: 0.4, no: 0.5 },
    'put-back': { own: 0.02, stock: 0.96, no: 0.02 },
    'recovery-image': { own: 0.03, stock: 0.02, no: 0.95 },
    bootloader: { own: 0.01, stock: 0.01, no: 0.98 },
    battery: { own: 0.05, stock: 0.05, no: 0.9 },
  },
  'slot-lines': {
    minutes: 2,
    about: ['loops', 'in-bootloader', 'in-recovery', 'logo', 'no-root'],
    else: { spent: 0.08, other: 0.03, plain: 0.89 },
    tries: { spent: 0.95, other: 0.02, plain: 0.03 },
    'wrong-slot': { spent: 0.1, other: 0.85, plain: 0.05 },
    'root-image': { spent: 0.25, other: 0.03, plain: 0.72 },
    'half-build': { spent: 0.25, other: 0.03, plain: 0.72 },
  },
  'update-line': {
    minutes: 2,
    about: ['loops', 'in-recovery', 'update-refused'],
    else: { open: 0.04, none: 0.96 },
    snapshot: { open: 0.95, none: 0.05 },
  },
  'rests-modules': {
    minutes: 6,
    about: ['loops'],
    else: { starts: 0.02, loops: 0.98 },
    module: { starts: 0.9, loops: 0.1 },
  },
  'same-build': {
    minutes: 1,
    about: STARTED,
    else: { same: 0.9, other: 0.1 },
    'stock-on-disk': { same: 0.35, other: 0.65 },
    'wrong-slot': { same: 0.1, other: 0.9 },
    kit: { same: 0.6, other: 0.4 },
  },
  'root-command': {
    minutes: 1,
    about: STARTED,
    else: { none: 0.6, denied: 0.2, granted: 0.2 },
    'stock-on-disk': { none: 0.96, denied: 0.02, granted: 0.02 },
    'wrong-slot': { none: 0.95, denied: 0.03, granted: 0.02 },
    kit: { none: 0.85, denied: 0.1, granted: 0.05 },
    'root-app': { none: 0.08, denied: 0.87, granted: 0.05 },
  },
  'app-there': {
    minutes: 1,
    about: STARTED,
    else: yes(0.85),
    'root-app': yes(0.25),
    'stock-on-disk': yes(0.8),
  },
  'other-cable': {
    minutes: 2,
    about: ['not-listed', 'write-refused'],
    else: yes(0.05),
    cable: yes(0.85),
    driver: yes(0.1),
  },
  'other-mode': {
    minutes: 3,
    about: ['not-listed'],
    else: yes(0.3),
    'debugging-off': yes(0.95),
    driver: yes(0.35),
    cable: yes(0.1),
    battery: yes(0.02),
    bootloader: yes(0.01),
  },
  'asks-wipe': {
    minutes: 1,
    about: ['in-recovery', 'asks-password', 'loops', 'storage-unreadable'],
    else: yes(0.05),
    data: yes(0.85),
    snapshot: yes(0.2),
  },
  'recovery-reads': {
    minutes: 1,
    about: ['storage-unreadable', 'asks-password', 'zip-unseen'],
    else: yes(0.6),
    'recovery-release': yes(0.05),
    data: yes(0.1),
    'file-place': yes(0.97),
  },
  'unlocked-line': {
    minutes: 1.5,
    about: ['write-refused'],
    else: yes(0.95),
    'shut-bootloader': yes(0.3),
  },
};
export const CHECK_IDS = Object.keys(CHECKS) as readonly CheckId[];
