import type { GoalId } from '@/core/planning/context';

/* The demo world: a hill-country trail survey club, its handsets and builds. All invented. */

export const DEMO_NOW = '2026-11-10T14:02:00Z';
export const at = (text: string) => Date.parse(text);

export interface DemoBuild {
  readonly product: string;
  readonly device: string;
  readonly buildId: string;
  readonly incremental: string;
  readonly patchLevel: string;
  readonly release: string;
  readonly publishedAt: number;
}
export const fingerprintOf = ({ product, device, buildId, incremental, release }: DemoBuild, brand: string) =>
  `${brand}/${product}/${device}:${release}/${buildId}/${incremental}:user/release-keys`;

function monthly(
  product: string,
  device: string,
  prefix: string,
  release: string,
  months: readonly (readonly [string, string, number])[],
): DemoBuild[] {
  return months.map(([date, serial, day]) => ({
    product,
    device,
    release,
    buildId: `${prefix}.${date}.${serial}`,
    incremental: `${date.slice(0, 4)}${serial}${day}`,
    patchLevel: `20${date.slice(0, 2)}-${date.slice(2, 4)}-05`,
    publishedAt: at(`20${date.slice(0, 2)}-${date.slice(2, 4)}-${String(day).padStart(2, '0')}T09:00:00Z`),
  }));
}

const PETREL_MONTHS = [
  ['260205', '011', 4],
  ['260305', '008', 5],
  ['260405', '012', 7],
  ['260505', '006', 6],
  ['260605', '009', 5],
  ['260705', '010', 7],
  ['260805', '004', 6],
  ['260905', '007', 4],
  ['261005', '014', 6],
  ['261105', '009', 5],
] as const;

export const BUILDS = {
  northGate: monthly('petrel2_eu', 'petrel2', 'OPA2', '17', PETREL_MONTHS),
  lookAlike: monthly('petrel2_am', 'petrel2', 'OPA2', '17', PETREL_MONTHS),
  ridge: monthly('petrel1_eu', 'petrel1', 'OPA1', '16', [
    ['260305', '015', 6],
    ['260605', '019', 8],
    ['260905', '020', 5],
    ['261005', '022', 7],
    ['261105', '006', 5],
  ]),
  barn: monthly('slate8', 'slate8', 'MS8', '14', [
    ['260301', '771', 9],
    ['261001', '790', 14],
  ]),
  weir: monthly('reed10', 'reed10', 'FR10', '14', [
    ['260601', '012', 5],
    ['261001', '019', 9],
  ]),
  hut: monthly('beacon', 'beacon', 'GB1', '15', [
    ['260801', '033', 7],
    ['261101', '041', 6],
  ]),
  spare: monthly('tarn', 'tarn', 'CT6', '15', [
    ['260501', '038', 12],
    ['260701', '040', 3],
    ['261001', '052', 6],
  ]),
} as const;

export interface DemoHandset {
  readonly id: string;
  readonly name: string;
  readonly model: string;
  readonly brand: string;
  readonly serial: string;
  readonly rootPartition: string;
  readonly slotCount: number;
  /** Its facts were read over the link; else they were pasted. */
  readonly live?: boolean;
  /** Its stand-in on this machine; of one that is worked by hand only its name. */
  readonly profile: string;
  readonly byHand?: boolean;
  readonly installed: DemoBuild;
  readonly builds: readonly DemoBuild[];
  readonly sdk: number;
  readonly firstApiLevel: number;
  readonly unlocked: boolean;
  readonly slot: string | null;
  readonly bootloader: string;
  readonly baseband: string;
  /** Times at which root changed, and to what. */
  readonly root: readonly (readonly [string, string, string])[];
  readonly factsAt: string;
  /** A module makes the running system deny that it is unlocked. */
  readonly hidesLock?: boolean;
  readonly unlockSwitch: 'on' | 'off';
  /** What its bootloader is at, and how it is unlocked. */
  readonly fuse: number;
  /** Levels of bootloaders by build number, where they are not the fuse's. */
  readonly levels?: Readonly<Record<string, number>>;
  readonly more?: Readonly<Record<string, string>>;
  /** What nobody printed and the person knows. */
  readonly typed?: Readonly<Record<string, string | number>>;
}

/** The level that a build's bootloader brings. */
export const levelOf = ({ fuse, levels }: DemoHandset, { buildId }: DemoBuild): number =>
  levels?.[buildId] ?? fuse;

const last = (builds: readonly DemoBuild[], back = 0) => builds[builds.length - 1 - back]!;

export const HANDSETS: readonly DemoHandset[] = [
  {
    id: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001',
    name: 'North gate counter',
    model: 'Ondine Petrel 2',
    brand: 'ondine',
    serial: 'NG7Q2K41TR',
    rootPartition: 'init_boot',
    slotCount: 2,
    profile: 'north-gate',
    live: true,
    installed: last(BUILDS.northGate),
    builds: BUILDS.northGate,
    sdk: 37,
    firstApiLevel: 35,
    unlocked: true,
    slot: 'a',
    bootloader: 'pt2-9.4',
    fuse: 4,
    baseband: 'rd-88.1',
    root: [
      ['2026-02-02T10:00:00Z', 'stock', 'bought and put on the bench'],
      ['2026-09-12T10:41:00Z', 'proven', 'first root'],
      ['2026-10-08T08:50:00Z', 'lost', 'the October update'],
      ['2026-10-08T09:32:00Z', 'proven', 'root again'],
      ['2026-11-09T18:20:00Z', 'lost', 'the November update was taken and restarted'],
    ],
    factsAt: '2026-11-09T18:30:00Z',
    unlockSwitch: 'on',
  },
  {
    id: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0002',
    name: 'Ridge camera',
    model: 'Ondine Petrel 1',
    brand: 'ondine',
    serial: 'RC2M9X05LD',
    rootPartition: 'boot',
    slotCount: 2,
    profile: 'ridge',
    installed: last(BUILDS.ridge, 1),
    builds: BUILDS.ridge,
    sdk: 36,
    firstApiLevel: 31,
    unlocked: true,
    slot: 'b',
    bootloader: 'pt1-7.7',
    fuse: 7,
    more: { startsOnce: 'true' },
    baseband: 'rd-71.3',
    root: [
      ['2026-03-10T12:00:00Z', 'stock', 'put on the bench'],
      ['2026-05-02T15:10:00Z', 'proven', 'first root'],
      ['2026-05-09T08:50:00Z', 'broken', 'it looped with Long exposure 0.7'],
      ['2026-05-09T09:45:00Z', 'proven', 'the module named and off'],
      ['2026-06-11T07:30:00Z', 'broken', 'a patched image of the wrong month'],
      ['2026-06-12T19:05:00Z', 'proven', 'stock put back, patched again'],
      ['2026-09-19T19:10:00Z', 'lost', 'the September update'],
      ['2026-09-19T19:50:00Z', 'proven', 'root again, with the new kit'],
      ['2026-10-09T16:00:00Z', 'lost', 'the October update'],
      ['2026-10-09T17:20:00Z', 'proven', 'root again'],
    ],
    factsAt: '2026-10-09T17:25:00Z',
    hidesLock: true,
    unlockSwitch: 'on',
  },
  {
    id: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0003',
    name: 'Barn tablet',
    model: 'Marrow Slate 8',
    brand: 'marrow',
    serial: 'BT0081FQ7W',
    rootPartition: 'boot',
    slotCount: 1,
    profile: 'barn',
    installed: BUILDS.barn[0]!,
    builds: BUILDS.barn,
    sdk: 34,
    firstApiLevel: 29,
    unlocked: true,
    slot: null,
    bootloader: 'ms8-3.0',
    fuse: 2,
    more: {
      downloadMode: 'true',
      restoresRecovery: 'true',
      unlockPath: 'key chord',
      'partition-size:boot': String(16 * 1024 * 1024),
      'partition-size:recovery': String(16 * 1024 * 1024),
    },
    baseband: 'none',
    root: [
      ['2026-03-12T09:00:00Z', 'stock', 'put on the bench'],
      ['2026-04-04T11:00:00Z', 'proven', 'rooted through its recovery'],
      ['2026-11-02T06:45:00Z', 'unproven', 'restarted, not asked since'],
    ],
    factsAt: '2026-11-02T06:50:00Z',
    unlockSwitch: 'on',
    typed: { fuse: 'blown since April 2026', writeCounter: 3 },
  },
  {
    id: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0004',
    name: 'Spare',
    model: 'Calder Tarn',
    brand: 'calder',
    serial: 'SP4471KZQA',
    rootPartition: 'init_boot',
    slotCount: 2,
    profile: 'spare',
    installed: last(BUILDS.spare, 1),
    builds: BUILDS.spare,
    sdk: 35,
    firstApiLevel: 34,
    unlocked: false,
    slot: 'a',
    bootloader: 'ct-6.2',
    fuse: 1,
    more: { unlockPath: 'mailed code' },
    baseband: 'rd-90.0',
    root: [['2026-05-14T10:00:00Z', 'stock', 'put on the bench, locked']],
    factsAt: '2026-10-20T10:00:00Z',
    unlockSwitch: 'off',
  },
  {
    id: '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0005',
    name: 'Saddle camera',
    model: 'Ondine Petrel 1',
    brand: 'ondine',
    serial: 'SC8Q1T60VN',
    rootPartition: 'boot',
    slotCount: 2,
    profile: 'saddle',
    byHand: true,
    installed: last(BUILDS.ridge, 1),
    builds: BUILDS.ridge,
    sdk: 36,
    firstApiLevel: 31,
    unlocked: true,
    slot: 'a',
    bootloader: 'pt1-7.7',
    fuse: 7,
    more: { startsOnce: 'true' },
    baseband: 'rd-71.3',
    root: [
      ['2026-08-22T11:00:00Z', 'stock', 'put on the bench'],
      ['2026-08-22T12:10:00Z', 'proven', 'first root'],
      ['2026-10-11T15:00:00Z', 'lost', 'the October update'],
      ['2026-10-11T15:40:00Z', 'proven', 'root again'],
    ],
    factsAt: '2026-10-11T15:45:00Z',
    unlockSwitch: 'on',
  },
];

export interface PastRound {
  /** Place among the handsets. */
  readonly handset: number;
  readonly kind: GoalId;
  readonly title: string;
  readonly openedAt: string;
  /** How long each step took, in the lane's order; of one that was given up, as far as it came. */
  readonly seconds: readonly number[];
  readonly state?: 'closed' | 'given-up';
  readonly lane?: string;
  readonly note?: string;
  /** Why it would not be done the same way again. */
  readonly notAgain?: string;
  readonly sameAgain?: true;
  /** Month of the build that it was about, as in its number. */
  readonly month?: string;
}

/**
 * Ten months: a recovery overwritten once, a loop traced to a module, a downgrade refused, a month held for
 * the kit, and an early restart.
 */
export const PAST_ROUNDS: readonly PastRound[] = [
  {
    handset: 2,
    kind: 'keep a recovery',
    title: 'Recovery',
    openedAt: '2026-04-03T16:40:00Z',
    seconds: [30, 900, 45, 30, 260, 60, 12],
    state: 'given-up',
    lane: 'Write the recovery',
    note: 'Lifeboat was written, and the system was started before it was entered: the stock recovery was back.',
  },
  {
    handset: 2,
    kind: 'first root',
    title: 'First root',
    openedAt: '2026-04-04T10:05:00Z',
    seconds: [20, 300, 40, 25, 280, 70, 14, 88, 60, 35],
    lane: 'Through a custom recovery',
    note: 'Entered the recovery at once this time.',
    sameAgain: true,
  },
  {
    handset: 1,
    kind: 'first root',
    title: 'First root',
    openedAt: '2026-05-02T14:20:00Z',
    seconds: [35, 1100, 70, 40, 330, 110, 28, 70, 58, 44],
    lane: 'Start once, then make lasting',
  },
  {
    handset: 1,
    kind: 'repair',
    title: 'Repair',
    openedAt: '2026-05-09T09:12:00Z',
    seconds: [25, 12, 9, 8, 200, 40, 20, 64, 40, 30],
    lane: 'Stock images back',
    note: 'It looped after Long exposure 0.7 was switched on. Brought back in batches: Long exposure named after two loops, the other four on.',
  },
  {
    handset: 1,
    kind: 'root again',
    title: 'Root again',
    month: '260605',
    openedAt: '2026-06-12T18:10:00Z',
    seconds: [30, 700, 50, 30, 300, 90, 24, 66, 50, 38],
    note: 'The image of March had been patched for June.',
    notAgain: 'the month was matched by eye: hold the image against the build first',
  },
  {
    handset: 3,
    kind: 'downgrade',
    title: 'Downgrade',
    openedAt: '2026-07-12T11:30:00Z',
    seconds: [18, 400, 22],
    state: 'given-up',
    lane: 'Sideload through the stock recovery',
    note: 'Refused: older than the installed build. Nothing had changed.',
  },
  {
    handset: 1,
    kind: 'monthly update',
    title: 'Monthly update',
    openedAt: '2026-09-06T18:00:00Z',
    seconds: [22],
    state: 'given-up',
    lane: 'Update in place and patch the other slot',
    note: 'Held for the kit: Burrow 7.2 did not know the September build. Taken when 7.3 was out.',
  },
  {
    handset: 0,
    kind: 'first root',
    title: 'First root',
    openedAt: '2026-09-12T10:12:00Z',
    seconds: [14, 611, 38, 22, 240, 95, 9, 71, 44, 31],
  },
  {
    handset: 1,
    kind: 'monthly update',
    title: 'Monthly update',
    openedAt: '2026-09-19T19:05:00Z',
    seconds: [26, 860, 55, 32, 290, 100, 25, 61, 47, 36],
    month: '260905',
    lane: 'Whole build without wiping, then root again',
    note: 'Burrow 7.3 knows it. Long exposure made the pictures green for two days.',
  },
  {
    handset: 0,
    kind: 'root again',
    title: 'Root again',
    openedAt: '2026-10-08T09:10:00Z',
    month: '261005',
    seconds: [6, 420, 21, 12, 150, 48, 7, 58, 19, 22],
  },
  {
    handset: 1,
    kind: 'root again',
    title: 'Root again',
    openedAt: '2026-10-09T16:20:00Z',
    month: '261005',
    seconds: [40, 980, 64, 35, 310, 120, 26, 66, 52, 40],
  },
];
