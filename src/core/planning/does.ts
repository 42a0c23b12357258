import { onSlot } from '../handset/builds';
import type { HandsetState, ImageFacts, Slot } from '../handset/state';
import { otherSlot } from '../handset/state';
import type { ActionId } from './actions';
import { IMAGE_OF_DATA } from './actions-recovery';
import type { PlanContext } from './context';
import { runsNow } from './context';

/*
 * What a step really does, as tags of a closed vocabulary, one an effect, in order (docs/method.md, "Tags").
 * They are read from the states before and after it, not from its name, wherever a state shows the effect.
 */

export interface DidStep {
  readonly action: ActionId;
  readonly before: HandsetState;
  readonly after: HandsetState;
  /** What lay on the computer before it and after it. */
  readonly madeBefore: readonly string[];
  readonly made: readonly string[];
}

type Tags = readonly string[];
type Of = (context: PlanContext, step: DidStep) => Tags;

/** Of something that was made on the computer: `package BUILD`, `stock BUILD` and so on. */
function ofMade({ profile, limits, kit }: PlanContext, what: string): Tags {
  const [kind, build] = [what.slice(0, what.lastIndexOf(' ')), what.slice(what.lastIndexOf(' ') + 1)];
  const { rootPartition, recoveryHome, partitionBytes } = profile;
  const elsewhere = limits.patchedElsewhere === true || kit === null;
  switch (kind) {
    case 'package':
      return [`fetch:package:${build}`];
    case 'stock':
      return [`take:${rootPartition}:${build}`];
    case 'stock recovery':
      return [`take:${recoveryHome}:${build}`];
    case 'bootloader':
      return [`take:bootloader:${build}`];
    case 'whole':
      return Object.keys(partitionBytes).map((partition) => `take:${partition}:${build}`);
    case 'recovery':
      return [`judge:${recoveryHome}:${build}`];
    case 'patched':
    case 'patched-with-recovery':
      return [`${elsewhere ? 'judge' : 'patch'}:${rootPartition}:${build}`];
    default:
      return what === IMAGE_OF_DATA ? ['backup:image'] : what === 'code' ? ['ask:code'] : [];
  }
}

function onComputer(context: PlanContext, { madeBefore, made }: DidStep): Tags {
  const fresh = made.filter((what) => !madeBefore.includes(what));
  // all images of a build hold the one that carries root
  const whole = fresh.find((what) => what.startsWith('whole '));
  return fresh
    .filter((what) => whole === undefined || what !== whole.replace('whole', 'stock'))
    .flatMap((what) => ofMade(context, what));
}

const kindOf = ({ patchedBy, recovery, flags = 0 }: ImageFacts, partition: string, home: string) =>
  partition === home && recovery && patchedBy === null
    ? 'recovery'
    : patchedBy !== null || flags !== 0
      ? 'patched'
      : 'stock';

interface Written {
  readonly partition: string;
  readonly name: string;
  readonly kind: 'recovery' | 'patched' | 'stock';
  readonly build: string;
}

type Where = (context: PlanContext, before: HandsetState) => string;
const rootOn =
  (slot: (before: HandsetState) => Slot): Where =>
  ({ profile }, before) =>
    onSlot(profile.rootPartition, slot(before));
const homeOn =
  (slot: (before: HandsetState) => Slot): Where =>
  ({ profile }, before) =>
    onSlot(profile.recoveryHome, slot(before));
const active = (before: HandsetState) => before.active;
const runs = (before: HandsetState) => before.running?.slot ?? before.active;
const waits = (before: HandsetState) => before.update?.slot ?? runs(before);

/**
 * Every image that lies there now and did not before, in the order of the partitions, and the one that the step
 * is about, though the same lay there.
 */
function written(
  { profile }: PlanContext,
  { before, after }: DidStep,
  about: (name: string, image: ImageFacts) => boolean,
): Written[] {
  return Object.entries(after.images).flatMap(([name, image]) => {
    const was = before.images[name];
    const same = image === was || (image.sha256 === was?.sha256 && image.broken === was.broken);
    if (same && !about(name, image)) return [];
    const [partition, slot] = [name.slice(0, -2), name.slice(-1) as Slot];
    const kind = kindOf(image, partition, profile.recoveryHome);
    const build = image.fingerprint ?? after.builds[slot];
    return [{ partition, name, kind, build }];
  });
}

const asWrite = ({ name, kind, build }: Written) => `write:${name}:${kind}:${build}`;

/** Written one by one, the verified-boot data first. */
const singly =
  (where: Where): Of =>
  (context, step) =>
    written(context, step, (name) => name === where(context, step.before))
      .sort((a, b) => Number(b.partition === 'vbmeta') - Number(a.partition === 'vbmeta'))
      .flatMap((one) => {
        const isVbmeta = one.partition === 'vbmeta';
        return [
          ...(isVbmeta ? [`take:vbmeta:${one.build}`] : []),
          ...(isVbmeta && one.kind === 'patched' ? [`patch:vbmeta:${one.build}`] : []),
          asWrite(one),
        ];
      });

/** What root reads out of the slot that waits before it writes it there again, changed. */
const readOutFirst =
  (where: Where): Of =>
  (context, step) => {
    const done = written(context, step, (name) => name === where(context, step.before));
    const isWaiting = step.before.update !== null;
    return done.flatMap((one) => [
      ...(isWaiting || one.partition === 'vbmeta' ? [`take:${one.partition}:${one.build}`] : []),
      ...(one.kind === 'recovery'
        ? one.partition === 'recovery' || !isWaiting
          ? []
          : [`judge:${one.partition}:${one.build}`]
        : one.kind === 'patched' && (isWaiting || one.partition === 'vbmeta')
          ? [`patch:${one.partition}:${one.build}`]
          : []),
      asWrite(one),
    ]);
  };

/** What of a whole build is not the maker's. */
const patchedOf: Of = (context, step) =>
  written(context, step, (name) => name.endsWith(`_${step.after.active}`))
    .filter(({ kind, name }) => kind === 'patched' && name.endsWith(`_${step.after.active}`))
    .map(asWrite);

/** Its flags are set before the build is written with it. */
const flagged: Of = (_context, { after }) => {
  const image = after.images[onSlot('vbmeta', after.active)];
  return (image?.flags ?? 0) === 0 ? [] : [`patch:vbmeta:${image!.fingerprint}`];
};

const wholeBuild =
  (both: boolean): Of =>
  (context, step) => {
    const slots = both ? [step.before.active, otherSlot(step.before.active)] : [step.before.active];
    return [
      ...flagged(context, step),
      ...slots.map((slot) => `write-build:${slot}:${step.after.builds[slot]}`),
      ...patchedOf(context, step),
    ];
  };

const set =
  (region: 'keep' | 'wipe'): Of =>
  (context, step) => [
    ...flagged(context, step),
    `write-set:${region}:${step.after.builds[step.after.active]}`,
    ...patchedOf(context, step),
  ];

/** A start is seen to its end: the build that runs then is read. */
const started: Of = (_context, { after }) => [
  `start:${after.running?.slot ?? after.active}`,
  ...(after.mode === 'system' ? ['prove:build'] : []),
];

const always =
  (...tags: Tags): Of =>
  () =>
    tags;

const ownRecoveryRuns: Of = ({ profile }, { after }) =>
  after.fromMemory?.recovery || after.images[onSlot(profile.recoveryHome, after.active)]?.recovery
    ? ['mode:recovery', 'prove:recovery']
    : ['mode:recovery'];

const DOES: Readonly<Record<ActionId, Of>> = {
  'open-installed-package': onComputer,
  'open-target-package': onComputer,
  'open-other-package': onComputer,
  'take-stock': onComputer,
  'take-stock-recovery': onComputer,
  'rebuild-recovery': onComputer,
  'take-other-stock': onComputer,
  'take-target-stock': onComputer,
  'take-whole': onComputer,
  patch: onComputer,
  'patch-target': onComputer,
  'patch-with-recovery': onComputer,
  'bring-patched': onComputer,
  'bring-target-patched': onComputer,
  'patch-there': onComputer,
  'patch-target-there': onComputer,
  'ask-code': onComputer,
  'back-up-image': onComputer,
  debugging: always('switch:debugging-on'),
  'auto-update-off': always('switch:auto-update-off'),
  'unlock-switch': always('switch:unlock-on'),
  // after a chord of keys in download mode it is dark
  unlock: (_context, { after }) => (after.mode === 'off' ? ['unlock', 'mode:off'] : ['unlock']),
  lock: always('lock'),
  bootloader: always('mode:bootloader'),
  recovery: ownRecoveryRuns,
  download: always('mode:download'),
  'sideload-mode': always('mode:sideload'),
  start: started,
  'finish-start': started,
  'start-with-recovery-keys': always('start-once:root', 'prove:build'),
  'start-once': always('start-once:root'),
  'recovery-once': always('start-once:recovery', 'prove:recovery'),
  'prove-root': always('prove:root'),
  'finish-root-app': always(),
  'write-root': singly(rootOn(active)),
  'write-stock': singly(rootOn(active)),
  'write-other-stock': singly(rootOn((before) => otherSlot(before.active))),
  'write-recovery': singly(homeOn(active)),
  'write-stock-recovery': singly(homeOn(active)),
  'root-zip': singly(rootOn(active)),
  'make-lasting': singly(rootOn(runs)),
  'zip-inside': singly(rootOn(runs)),
  'stock-back': singly(rootOn(runs)),
  'stock-recovery-back': singly(homeOn(runs)),
  'patch-other-slot': readOutFirst(rootOn(waits)),
  'recovery-inside': readOutFirst(homeOn(waits)),
  'open-older-package': onComputer,
  'take-bootloader': onComputer,
  'take-older-bootloader': onComputer,
  'bootloader-down': ({ looseBuild }) => [`write-bootloader:${looseBuild}`],
  'bootloader-back': (context) => [`write-bootloader:${runsNow(context)}`],
  'read-out': ({ install }, { before }) =>
    (install?.writes ?? []).map(({ partition }) => `read:${onSlot(partition, runs(before))}`),
  'package-inside': (context, step) =>
    written(context, step, (name) =>
      (context.install?.writes ?? []).some(({ partition }) => name === onSlot(partition, runs(step.before))),
    ).map(asWrite),
  'see-again': always('prove:package'),
  'older-bootloader': ({ target }) => [`write-bootloader:${target}`],
  'write-build': wholeBuild(false),
  'write-build-both': wholeBuild(true),
  'write-build-patched': wholeBuild(false),
  'write-set': set('keep'),
  'write-set-patched': set('keep'),
  'write-set-wipe': set('wipe'),
  sideload: (_context, { before, after }) => [
    `sideload:${after.builds[after.active]}`,
    ...(after.data.wipes > before.data.wipes ? ['wipe:everything'] : []),
  ],
  'take-update': ({ target }) => [`update:take:${target}`],
  'take-full-update': ({ target }) => [`update:take:${target}`],
  merge: always('update:merge'),
  'cancel-update': always('update:cancel'),
  'other-slot': (_context, { after }) => [`select:${after.active}`],
  'same-slot': (_context, { after }) => [`select:${after.active}`],
  'open-root': always('root:inside'),
  'undo-inside': always('root:inside-off'),
  'modules-off': always('modules:off'),
  'modules-seen-off': started,
  'modules-on': always('modules:on'),
  'erase-cache': always('wipe:cache'),
  'wipe-keep-storage': always('wipe:keep-storage'),
  'factory-reset': always('wipe:everything'),
  'format-data': always('wipe:format'),
};

/** The tags of one step. */
export const tagsOf = (context: PlanContext, step: DidStep): readonly string[] =>
  DOES[step.action](context, step);
