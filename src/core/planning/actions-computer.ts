import { otherSlot } from '../handset/state';
import {
  buildAtActive,
  hasStockRecovery,
  needRebuilt,
  needRecoveryStock,
  onComputer,
  patchedWithRecovery,
  rebuiltRecovery,
} from './action-kit';
import type { PlanContext, PlanState } from './context';
import { hasMade, hasOwnPartition, NO_RECOVERY, noRecoveryPlace, runsNow, sharesWithRoot } from './context';

/* What is found, taken out and patched on the computer; nothing of it touches the handset. */

const buildAtOther = ({ handset }: PlanState) => handset.builds[otherSlot(handset.active)];

const packageFor = (which: 'installed' | 'target' | 'other') =>
  onComputer(
    {
      title:
        which === 'installed'
          ? 'Open the package of the installed build'
          : which === 'target'
            ? 'Open the package of the new build'
            : 'Open the package of the build on the other slot',
      minutes: [10, 60],
      downloads: 1,
    },
    (context, state) => {
      const build =
        which === 'installed' ? runsNow(context) : which === 'target' ? context.target : buildAtOther(state);
      if (which !== 'installed' && build === runsNow(context)) return 'it is the installed build';
      if (!context.fullPackages.includes(build)) return 'no full package of this build can be had';
      return hasMade(state, `package ${build}`) ? 'it is open already' : { make: `package ${build}` };
    },
  );

const made = (kind: 'stock' | 'patched', which: 'active' | 'target' | 'other') =>
  onComputer(
    {
      title: kind === 'stock' ? 'Take out the stock image' : 'Patch the image',
      minutes: kind === 'stock' ? [0.5, 2] : [1, 2],
    },
    (context, state) => {
      const build =
        which === 'active' ? buildAtActive(state) : which === 'target' ? context.target : buildAtOther(state);
      if (hasMade(state, `${kind} ${build}`)) return 'it is made already';
      if (kind === 'stock')
        return hasMade(state, `package ${build}`) ? { make: `stock ${build}` } : 'its package is not open';
      const elsewhere = whyNotPatchedHere(context);
      if (elsewhere !== null) return elsewhere;
      return hasMade(state, `stock ${build}`)
        ? { make: `patched ${build}` }
        : 'its stock image is not in the vault';
    },
  );

function whyNotPatchedHere({ limits, kit }: PlanContext): string | null {
  if (limits.patchThere) return 'it is patched on the handset';
  if (limits.patchedElsewhere) return 'it comes patched from elsewhere';
  return kit === null ? 'no kit supports this release and partition' : null;
}

/** A provider's own app patched it: it is judged here against the stock image, whether or not a kit is at hand. */
const brought = (which: 'active' | 'target') =>
  onComputer(
    { title: 'Bring the image that your provider’s app patched', minutes: [3, 15], fileTrips: 1 },
    (context, state) => {
      const build = which === 'active' ? buildAtActive(state) : context.target;
      if (hasMade(state, `patched ${build}`)) return 'it is made already';
      if (context.limits.patchThere) return 'it is patched on the handset';
      if (context.kit !== null && !context.limits.patchedElsewhere) return 'it is patched here';
      return hasMade(state, `stock ${build}`)
        ? { make: `patched ${build}` }
        : 'its stock image is not in the vault';
    },
  );

export const COMPUTER_ACTIONS = {
  'open-installed-package': packageFor('installed'),
  'open-target-package': packageFor('target'),
  'take-stock': made('stock', 'active'),
  'take-stock-recovery': onComputer(
    { title: 'Take out the stock recovery', minutes: [0.5, 2] },
    (context, state) => {
      const build = buildAtActive(state);
      if (!context.recoveryHomeRead) return 'where its recovery lives was never read';
      if (hasStockRecovery(context, state, build)) return 'it is in the vault already';
      return hasMade(state, `package ${build}`)
        ? { make: `stock recovery ${build}` }
        : 'its package is not open';
    },
  ),
  'rebuild-recovery': onComputer(
    { title: 'Put the recovery into the stock image', minutes: [0.5, 2] },
    (context, state) => {
      if (!context.recovery) return NO_RECOVERY;
      if (hasOwnPartition(context.profile)) return 'its recovery has a partition of its own';
      const build = buildAtActive(state);
      if (hasMade(state, rebuiltRecovery(build))) return 'it is made already';
      return (
        noRecoveryPlace(context) ??
        needRecoveryStock(context, state, build) ?? { make: rebuiltRecovery(build) }
      );
    },
  ),
  'patch-with-recovery': onComputer(
    { title: 'Patch the image that holds the recovery', minutes: [1, 2] },
    (context, state) => {
      const build = buildAtActive(state);
      if (!sharesWithRoot(context.profile)) return 'its recovery shares no ramdisk with root';
      if (hasMade(state, patchedWithRecovery(build))) return 'it is made already';
      return (
        whyNotPatchedHere(context) ??
        needRebuilt(context, state, build) ?? { make: patchedWithRecovery(build) }
      );
    },
  ),
  'open-other-package': packageFor('other'),
  'take-other-stock': made('stock', 'other'),
  'take-target-stock': made('stock', 'target'),
  patch: made('patched', 'active'),
  'patch-target': made('patched', 'target'),
  'bring-patched': brought('active'),
  'bring-target-patched': brought('target'),
  'take-whole': onComputer(
    { title: 'Take every image of the build', minutes: [2, 10] },
    ({ target }, state) => {
      if (hasMade(state, `whole ${target}`)) return 'they are in the vault already';
      return hasMade(state, `package ${target}`)
        ? { make: [`whole ${target}`, `stock ${target}`] }
        : 'its package is not open';
    },
  ),
  'ask-code': onComputer(
    { title: 'Send the token, wait for the code by mail', minutes: [5, 60] },
    ({ profile }, state) => {
      if (profile.unlockPath !== 'mailed code') return 'it needs no code';
      if (state.handset.mode !== 'bootloader') return 'its token is read in the bootloader';
      return hasMade(state, 'code') ? 'the code is there' : { make: 'code' };
    },
  ),
} as const;
