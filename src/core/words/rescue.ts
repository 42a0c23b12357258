/* What a handset in trouble shows, what may be behind it, and what is asked and done about it. */

export const SYMPTOM_WORDS = {
  loops: 'It starts over and over',
  logo: 'It stays at the logo',
  'in-recovery': 'It lands in its recovery',
  'in-bootloader': 'It lands in its bootloader',
  'no-root': 'It starts, and root is gone',
  'root-denied': 'It starts, and the root app denies or is missing',
  'update-refused': 'It refuses the update',
  'recovery-stock': 'The maker’s recovery is there again',
  'recovery-dead': 'Its recovery did not open',
  'not-listed': 'The computer does not list it',
  'write-refused': 'A write was refused',
  'asks-password': 'It asks for a password that you never set',
  'storage-unreadable': 'Its recovery can’t read the storage',
  'zip-unseen': 'The ZIP is not to be seen',
  'touch-dead': 'It starts, and touch is dead',
  'radio-dead': 'It starts, and there is no network',
  dead: 'Nothing at all on screen',
} as const;
export type SymptomId = keyof typeof SYMPTOM_WORDS;

export const CAUSE_WORDS = {
  'slow-start': 'A first start that takes long',
  battery: 'The battery is empty',
  module: 'A module does not suit this build',
  'root-image': 'The image that carries root is damaged, or of another build',
  kit: 'The kit is too old for this release',
  'vendor-boot': 'vendor_boot is of another build',
  'half-build': 'A whole build was written in part only',
  tries: 'The slot has no tries left',
  'wrong-slot': 'The slot that is selected holds no whole system',
  data: 'The data belongs to a newer build, or to newer keys',
  snapshot: 'An update is stuck half-way',
  bootloader: 'The bootloader was cut short',
  'stock-on-disk': 'What lies on disk carries no root',
  'root-app': 'The root app is hidden, missing or was told to deny',
  'put-back': 'The system puts the maker’s recovery back',
  'recovery-image': 'The recovery is not the right one for this model',
  'recovery-release': 'The recovery does not know this release’s encryption',
  'not-stock': 'A partition that the update needs is not the maker’s own',
  'wrong-package': 'The package is not for this handset, or older than what is on it',
  'shut-bootloader': 'The bootloader is locked, or does not take this from this mode',
  'file-place': 'The file lies elsewhere, or under another name',
  cable: 'The cable, its port or an adapter',
  driver: 'The driver on the computer, or a program that holds the line',
  'debugging-off': 'Its debugging is off, or this computer is not trusted',
  hardware: 'The handset itself is broken',
} as const;
export type CauseId = keyof typeof CAUSE_WORDS;

export const REPAIR_WORDS = {
  wait: 'Leave it on mains for ten minutes and watch',
  charge: 'Charge it for half an hour, then hold Power',
  replug: 'Another cable, straight into another port',
  'free-line': 'Close what holds the line, put the driver right, list again',
  'trust-again': 'Turn debugging on again and trust this computer',
  'merge-on': 'Restart it once, then leave it on mains until nothing merges',
  'kit-rests': 'Hold no keys: let its kit start it without modules',
  'stock-image': 'Write the stock image of this build back',
  'vendor-boot': 'Write vendor_boot of this build back',
  'select-again': 'Select the slot once more: its tries come back',
  'other-slot': 'Select the other slot',
  'other-kit': 'Patch with a newer kit, and write that',
  'root-again': 'Write root once more',
  'show-app': 'Show the root app, or install the same version again',
  'recovery-again': 'Write the recovery, and go into it at once',
  'newer-recovery': 'Take a recovery that knows this release',
  'push-again': 'Put the file there again, and look at its name',
  'parts-back': 'Write the maker’s own images of this build back, then update',
  'right-package': 'Take the whole package that is exactly for this handset',
  'right-mode': 'Go into the mode that takes this write, unlocked',
  'whole-build': 'Write all of this build, without wiping',
  'newer-build': 'Write all of the newer build that the data belongs to, without wiping',
  erase: 'Erase everything, then start',
  seller: 'Stop here: the seller, or a repairer',
} as const;
export type RepairId = keyof typeof REPAIR_WORDS;

/** What is done, in a sentence or two; keys and menu lines are its model's own. */
export const REPAIR_HOW: Readonly<Record<RepairId, string>> = {
  wait: 'Put it on mains, lay it down, and look again after ten minutes. A first start after a change takes long.',
  charge: 'A charger that charged something else today, half an hour, then hold Power for ten seconds.',
  replug:
    'No hub and no adapter. A cable that carries data, in a port of the computer itself. Then list again.',
  'free-line':
    'Close every other program that speaks to handsets. Look whether the system has a driver for it. List again.',
  'trust-again': 'On the handset: turn debugging on, plug it in, and allow this computer when it asks.',
  'merge-on':
    'It runs while it merges, and the merge goes on after a restart. Plugged in, its screen on. Erase nothing and select no slot meanwhile.',
  'kit-rests':
    'Let it fail as often as its kit says. It then starts by itself without any module; switch the last one off for good.',
  'stock-image':
    'From the bootloader, or in download mode: root and modules are off then, data is as it was.',
  'vendor-boot': 'From the bootloader. It has to be the one of the very build that lies on the slot.',
  'select-again':
    'In the bootloader, the slot that is active: selecting it gives it its tries back. Nothing is written.',
  'other-slot': 'Once, and only where an update never merged over it and no newer build has opened the data.',
  'other-kit': 'Patch the stock image of this build with the newer kit, have it proved, write that.',
  'root-again':
    'The patched image of the build that runs now. Where it is another build than before, patch that one.',
  'show-app':
    'Look for it under another name, allow again what was denied, or install the same version from its own file.',
  'recovery-again':
    'Write it and go into it at once, with its keys: a start in between puts the maker’s back.',
  'newer-recovery':
    'One that names this release. Until then the storage stays shut to it: erase nothing for its sake.',
  'push-again':
    'Its whole name and ending, in the top folder; capital letters count. Then by way of the running system.',
  'parts-back':
    'Every partition that was changed, from the vault, on the slot that runs. Then take the update.',
  'right-package':
    'Compare code name, region and build string for string. A whole package, not one that only updates.',
  'right-mode':
    'Some partitions are written in one mode only. A locked bootloader takes none: unlocking erases everything.',
  'whole-build': 'Every partition of the build that is on it, and nothing erased.',
  'newer-build': 'The data belongs to it: it still reads what the older one can’t. Nothing is erased.',
  erase:
    'Nothing that keeps the data is left. Everything on it goes: apps, files, accounts, and a card that is part of its storage.',
  seller:
    'Say what it shows and since when. Within the return window the seller has to take it; later a repairer may read its memory.',
};

export const CHECK_WORDS = {
  'wait-first': {
    asks: 'Leave it alone for five minutes. What does it do then?',
    answers: { starts: 'It starts', same: 'The same as before' },
  },
  'charge-first': {
    asks: 'Ten minutes on mains. Does anything show?',
    answers: { shows: 'Something shows', dark: 'It stays dark' },
  },
  'opens-bootloader': {
    asks: 'Hold the keys that lead into its bootloader or download mode. Does it open?',
    answers: { yes: 'It opens', no: 'It does not' },
  },
  'opens-recovery': {
    asks: 'Hold the keys that lead into its recovery. What opens?',
    answers: { own: 'Your own recovery', stock: 'The maker’s recovery', no: 'None' },
  },
  'slot-lines': {
    asks: 'What do its bootloader’s variables say of the slots?',
    answers: {
      spent: 'No tries left, or not bootable',
      other: 'Another slot than before is active',
      plain: 'The slot is as it was',
    },
  },
  'update-line': {
    asks: 'Does an update wait or merge, by the bootloader’s variables?',
    answers: { open: 'It waits or merges', none: 'None' },
  },
  'rests-modules': {
    asks: 'After so many failed starts its kit starts it without modules. Does it start then?',
    answers: { starts: 'It starts', loops: 'It goes on looping' },
  },
  'same-build': {
    asks: 'Which build does its system say?',
    answers: { same: 'The one that root was made for', other: 'Another one' },
  },
  'root-command': {
    asks: 'Ask for root. What comes back?',
    answers: { none: 'No such command', denied: 'Denied', granted: 'Granted' },
  },
  'app-there': {
    asks: 'Is the root app to be seen?',
    answers: { yes: 'It is there', no: 'It is not' },
  },
  'other-cable': {
    asks: 'Another cable, straight into another port. Is it listed?',
    answers: { yes: 'Listed', no: 'Still not' },
  },
  'other-mode': {
    asks: 'Is it listed in another mode, in its bootloader say?',
    answers: { yes: 'Yes', no: 'In none' },
  },
  'asks-wipe': {
    asks: 'Does its screen say that the data can’t be opened, or offer to erase it?',
    answers: { yes: 'It does: say no to it', no: 'Nothing of the kind' },
  },
  'recovery-reads': {
    asks: 'In your own recovery: does it read the storage?',
    answers: { yes: 'It does', no: 'Empty, or names that make no sense' },
  },
  'unlocked-line': {
    asks: 'Does its bootloader say that it is unlocked?',
    answers: { yes: 'Unlocked', no: 'Locked' },
  },
} as const;
export type CheckId = keyof typeof CHECK_WORDS;

/** The short ladder of a handset that is not listed. */
export const RUNG_WORDS = {
  'plug-again': 'Unplug it at both ends, look for dust, plug it in again',
  'other-port': 'Another port of the computer itself, no hub and no adapter',
  'other-cable': 'Another cable, one that is known to carry data',
  'select-again': 'Unlock its screen, choose file transfer on it, and select it again in the list',
  'close-programs': 'Close every other program that speaks to handsets, also those in the background',
  'put-driver': 'Put the driver right, or the rule that lets you use the port, then plug it in again',
  'allow-computer': 'Look at its screen: allow this computer when it asks',
  'debugging-on': 'Turn debugging off and on again in its developer options',
} as const;
export type RungId = keyof typeof RUNG_WORDS;
