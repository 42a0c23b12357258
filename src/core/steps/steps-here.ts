import type { Deed, OfBuild } from './deed';
import { NONE } from './gate-sets';
import type { StepAbout, StepKind, StepText, StepWords } from './step-kind';

/* Steps on the computer: nothing of them touches the handset. */

export const packageText = (build: string): StepText => ({
  title: `Find the package of ${build}`,
  todo: 'Open the full package of exactly this build in the Firmware room. It is read in place.',
  see: 'The verdict “exact”, fact by fact.',
  dont: 'Take the nearest one: another month or another variant has another image.',
  otherwise: 'Another verdict names the fact that differs. Nothing of that package will be written.',
});
const takeText = (partition: string, build: string): StepText => ({
  title: `Take out ${partition} of ${build}`,
  todo: `Take ${partition} out of the package. Its hash is checked, then it is kept in the vault.`,
  see: 'The image in the vault, with where it came from.',
  dont: 'Use an image that somebody sent without its package: nothing shows which build it belongs to.',
  otherwise: 'The package is damaged: Eterno says where. Download it again.',
});
const patchText = (partition: string, build: string): StepText => ({
  title: `Patch ${partition} of ${build} with the kit`,
  todo: 'Patch here. The result is read afresh and proved against the stock image, in the browser and again on the server.',
  see: 'Every check of the proof holds.',
  dont: 'Patch an image that is patched already.',
  otherwise: 'A check that fails means the result is thrown away; the stock image stays.',
});

export const fetch = (text: (about: StepAbout) => StepText): StepWords => ({
  stage: 'Fetch',
  seconds: [10, 120],
  button: 'Open its package',
  text,
});
export const take = (text: (about: StepAbout) => StepText): StepWords => ({
  stage: 'Extract',
  seconds: [3, 60],
  button: ({ partition }) => `Take out ${partition}`,
  text,
});
const patch = (text: (about: StepAbout) => StepText): StepWords => ({
  stage: 'Patch',
  seconds: [5, 60],
  button: ({ partition }) => `Patch ${partition}`,
  text,
});

const bringText = (partition: string, build: string): StepText => ({
  title: `Bring the patched ${partition} of ${build}`,
  todo: `Take the stock ${partition} of this build to your provider’s app, patch it there, and bring the result here: on the page of the stock image choose “Bring a patched image”.`,
  see: '“It belongs to this stock image: only what a patch changes is changed.” Then keep it in the vault.',
  dont: 'Bring one that was made for another month, or patch an image that is patched already.',
  otherwise:
    'It says that the image does not come from this stock image: look for the newest result of the app, its name is often the old one.',
});

const bring = (text: (about: StepAbout) => StepText): StepWords => ({
  stage: 'Patch',
  seconds: [120, 900],
  button: 'Bring the patched image',
  text,
});
/** Found in another room than the round's; no word makes it done: the package on the shelf does. */
const openedDeed = (of: OfBuild, onOther: boolean = false): Deed => ({
  writes: null,
  gates: NONE,
  changes: false,
  here: true,
  room: 'firmware',
  settledBy: { what: 'package', of },
  ...(onOther ? { onOther } : {}),
});
/** No word makes it done: the image in the vault does. */
const takenDeed = (what: 'stock' | 'stock recovery', of: OfBuild, onOther: boolean = false): Deed => ({
  writes: null,
  gates: NONE,
  changes: false,
  here: true,
  room: 'firmware',
  settledBy: { what, of },
  keeps: 'one image',
  ...(onOther ? { onOther } : {}),
});
/** No word makes it done: the image in the vault does. */
const patchedDeed = (
  of: OfBuild,
  what: 'rebuilt recovery' | 'patched' | 'patched with recovery' = 'patched',
): Deed => ({
  writes: null,
  gates: NONE,
  changes: false,
  here: true,
  room: 'images',
  ...(what === 'rebuilt recovery' ? {} : { proves: ['image-proved'] }),
  settledBy: { what, of },
  keeps: 'one image',
});

export const HERE = {
  'open-installed-package': {
    ...fetch(({ build }) => packageText(build)),
    deed: openedDeed('its build'),
  },
  'open-target-package': {
    ...fetch(({ target }) => packageText(target)),
    deed: openedDeed('the target'),
  },
  'take-stock': {
    ...take(({ partition, build }) => takeText(partition, build)),
    deed: takenDeed('stock', 'its build'),
  },
  'take-stock-recovery': {
    ...take(({ recoveryHome, build }) => takeText(recoveryHome, build)),
    button: ({ recoveryHome }) => `Take out ${recoveryHome}`,
    deed: takenDeed('stock recovery', 'its build'),
  },
  'open-other-package': {
    ...fetch(({ build }) => packageText(build)),
    deed: openedDeed('its build', true),
  },
  'take-other-stock': {
    ...take(({ partition, build }) => takeText(partition, build)),
    deed: takenDeed('stock', 'its build', true),
  },
  'take-target-stock': {
    ...take(({ partition, target }) => takeText(partition, target)),
    deed: takenDeed('stock', 'the target'),
  },
  'take-whole': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      here: true,
      room: 'firmware',
      settledBy: { what: 'every image', of: 'the target' },
      keeps: 'every image',
      wholeBuild: true,
    },

    stage: 'Extract',
    seconds: [20, 300],
    button: 'Take all of them out',
    text: ({ target }) => ({
      title: `Take every image of ${target}`,
      todo: 'Take all images out of the package of the whole build, bootloader and radio too. Each is checked and kept.',
      see: 'Every image of this one build in the vault.',
      dont: 'Mix images of two builds: Eterno refuses to write them, and a handset that gets them may not start.',
      otherwise:
        'An image that is missing is named. An update package may leave out bootloader and radio: the whole build has them.',
    }),
  },
  patch: {
    ...patch(({ partition, build }) => patchText(partition, build)),
    deed: patchedDeed('its build'),
  },
  'rebuild-recovery': {
    ...patch(({ recovery, recoveryHome, build }) => ({
      title: `Put ${recovery} into ${recoveryHome} of ${build}`,
      todo: `${recoveryHome} holds more than the recovery. On the page of its stock image choose ${recovery}: only the recovery’s ramdisk is replaced, and the result is proved here.`,
      see: 'Every check of the proof holds: all else is the stock image’s, byte for byte.',
      dont: `Write a whole recovery image over ${recoveryHome}: everything else in it would be gone.`,
      otherwise: 'It does not fit, or has no ramdisk of its own: look for one that is made for this handset.',
    })),
    button: ({ recovery }) => `Put ${recovery} in`,
    deed: patchedDeed('its build', 'rebuilt recovery'),
  },
  'patch-with-recovery': {
    ...patch(({ partition, recovery, build }) => ({
      ...patchText(partition, build),
      title: `Patch the ${partition} of ${build} that holds ${recovery}`,
      todo: `Recovery and root share one ramdisk, so root goes into the image that holds ${recovery}. Patch that one; the result is proved against it.`,
      dont: `Patch the stock image for this: written over the recovery, it would take it away.`,
    })),
    deed: patchedDeed('its build', 'patched with recovery'),
  },
  'patch-target': {
    ...patch(({ partition, target }) => patchText(partition, target)),
    deed: patchedDeed('the target'),
  },
  'bring-patched': {
    ...bring(({ partition, build }) => bringText(partition, build)),
    deed: patchedDeed('its build'),
  },
  'bring-target-patched': {
    ...bring(({ partition, target }) => bringText(partition, target)),
    deed: patchedDeed('the target'),
  },
  'ask-code': {
    deed: { writes: null, gates: NONE, changes: false, here: true, waits: true },

    stage: 'Unlock',
    seconds: [300, 3600],
    text: () => ({
      title: 'Send the token, wait for the code',
      todo: 'Read the token in the bootloader; it is joined and checked here. Give it to the maker on the maker’s own page, then paste the code that comes back.',
      see: 'A mail with the code, after minutes. It often lands among the junk.',
      dont: 'Tick anything on the maker’s page that you did not read; never send the token anywhere else: it is private.',
      otherwise: 'No mail after an hour: look among the junk, then send the token again, all lines joined.',
    }),
  },
  'back-up': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      here: true,
      waits: true,
      // seen to be there when somebody looks around
      opens: { what: 'What was backed up goes back onto it', closedBy: ['look-around'] },
    },

    stage: 'Protect',
    seconds: [300, 1800],
    text: ({ handset }) => ({
      title: `Back up what lies on ${handset}`,
      todo: 'Take what you want to keep off the handset: its files, the system’s own backup, or an image of its data through a recovery. Then say which.',
      see: 'The files on another disk, opened once from there.',
      dont: 'Count a backup that lies on the handset: the same step erases it. Removing the screen lock decrypts nothing.',
      otherwise:
        'It does not fit, or an app does not let its data go: note what will be lost before you go on.',
    }),
  },
  'guard-off': {
    deed: {
      writes: null,
      gates: NONE,
      changes: false,
      opens: { what: 'Accounts and theft guard are off', closedBy: [] },
      waits: true,
    },

    stage: 'Protect',
    seconds: [60, 600],
    text: ({ handset }) => ({
      title: `Take accounts and theft guard off ${handset}`,
      todo: 'On the handset: sign out of its accounts, switch its theft guard off, and note how to sign in again.',
      see: 'No account is listed any more.',
      dont: 'Erase with an account on it: the handset then asks for that very account, before anything else.',
      otherwise: 'The password is not at hand: stop here. Without it a wiped handset can stay shut for good.',
    }),
  },
  protect: {
    deed: { writes: null, gates: NONE, changes: false, here: true, waits: true },

    stage: 'Protect',
    seconds: [30, 600],
    text: ({ handset }) => ({
      title: `Keep a way back for ${handset}`,
      todo: 'Read what each step erases, download the rescue page, and look at battery and room. After this the handset is touched.',
      see: 'What is kept, what is erased, and the page that helps when the handset does not start.',
      dont: 'Count a backup that lies on the handset: the handset is what gets erased.',
      otherwise: 'Something will not last: the line says how much is missing.',
    }),
  },
  check: {
    deed: { writes: null, gates: NONE, changes: false, here: true, waits: true },

    stage: 'Prepare',
    seconds: [5, 120],
    text: ({ handset }) => ({
      title: `Check everything before ${handset} is changed`,
      todo: 'Read the checks below. Plug the computer in, and use a cable that does not wiggle.',
      see: 'Each check holds, with its evidence.',
      dont: 'Go on with a swollen, hot or wet battery: stop, and bring it to a licensed repairer.',
      otherwise: 'A check that fails says what to do about it.',
    }),
  },
} as const satisfies Record<string, StepKind>;
