/*
 * What differs from one maker and model to the next, as data: keys, words, questions, parts
 * (docs/method.md, "A handset's own ways").
 */

export const HAND_KEYS = ['power', 'up', 'down', 'home'] as const;
export type HandKey = (typeof HAND_KEYS)[number];

/** Keys that are held together, for so many seconds, counted from the last one that goes down. */
export interface KeysWay {
  readonly keys: readonly HandKey[];
  readonly seconds: number;
  /** The cable has to be in. */
  readonly cable?: true;
}

/** What the fuse of a maker's warranty reacts to, and how it is said. */
export const FUSE_CAUSES = {
  unlocking: 'unlocking it',
  'a foreign write': 'an image written that is not the maker’s',
  'a foreign start': 'an image started that is not the maker’s',
  nothing: 'nothing: it has none',
} as const;
export type FuseCause = keyof typeof FUSE_CAUSES;
export const MENU_MOVES = {
  keys: 'the volume keys move, Power chooses',
  touch: 'a finger',
  both: 'a finger, or the keys',
} as const;
export type MenuMoves = keyof typeof MENU_MOVES;
/** What it means that the system restarts while somebody roots it from inside. */
export const RESTART_MEANS = {
  failed: 'a failed try',
  normal: 'a part of it: root is there afterwards',
} as const;
export const INSIDE_LASTS = {
  'until restart': 'until the next restart',
  lasting: 'after restarts too',
} as const;

/** Values by their form; of a choice the value is one of its words. */
interface Values {
  readonly keys: KeysWay;
  readonly text: string;
  /** Each of them on a line of its own. */
  readonly list: readonly string[];
  readonly choice: string;
}
export type WayForm = keyof Values;

export type WayGroup =
  | 'Keys'
  | 'Screens'
  | 'Menus'
  | 'Settings'
  | 'Questions'
  | 'Tool'
  | 'Versions'
  | 'Parts'
  | 'Record'
  | 'Root from inside';
export const WAY_GROUPS: readonly WayGroup[] = [
  'Keys',
  'Screens',
  'Menus',
  'Settings',
  'Questions',
  'Tool',
  'Versions',
  'Parts',
  'Record',
  'Root from inside',
];

type Choices = Readonly<Record<string, string>>;
export interface WayKind<F extends WayForm = WayForm, C extends Choices = Choices> {
  readonly group: WayGroup;
  readonly label: string;
  readonly form: F;
  /** Of a choice: its words, and how they are said. */
  readonly choices?: C;
}
const kind =
  <F extends WayForm>(group: WayGroup, form: F) =>
  (label: string): WayKind<F> => ({ group, form, label });
const choice = <C extends Choices>(group: WayGroup, label: string, choices: C) =>
  ({ group, form: 'choice', label, choices }) as const;
const keys = kind('Keys', 'keys');
const screen = kind('Screens', 'text');
const line = kind('Menus', 'text');
const setting = kind('Settings', 'text');
const question = kind('Questions', 'text');
const printed = kind('Tool', 'list');
const least = kind('Versions', 'text');

export const WAYS = {
  'keys-off': keys('Off, whatever it does'),
  'keys-bootloader': keys('From dark into the bootloader'),
  'keys-recovery': keys('From dark into recovery'),
  'keys-download': keys('From dark into download mode'),
  'keys-loop': keys('Out of a loop, into the bootloader'),
  'keys-unlock': keys('In download mode, to unlock'),
  'screen-bootloader': screen('The bootloader shows'),
  'screen-recovery': screen('The maker’s recovery shows'),
  'screen-download': screen('Download mode shows'),
  'screen-sideload': screen('Waiting for a package, it shows'),
  'menu-moves': choice('Menus', 'A line is chosen by', MENU_MOVES),
  'line-start': line('Starts the system'),
  'line-recovery': line('From the bootloader into recovery'),
  'line-userspace': line('Into user-space flashing'),
  'line-sideload': line('Waits for a package'),
  'line-install': line('Installs a package, in your recovery'),
  'line-cache': line('Erases the cache'),
  'line-keep-storage': line('Erases all but the storage'),
  'line-erase': line('Erases everything'),
  'line-format': line('Formats data'),
  'line-unlock': line('Unlocks, asked for the last time'),
  'line-lock': line('Locks, asked for the last time'),
  'setting-build': setting('The page with its build number'),
  'setting-debugging': setting('Debugging'),
  'setting-unlock': setting('The unlock switch'),
  'setting-guard': setting('What hides the unlock switch'),
  'setting-updates': setting('Automatic updates'),
  'code-form': setting('Its unlock codes look like (A a letter, 0 a digit, ? either)'),
  'ask-trust': question('Trusting a computer'),
  'ask-restart': question('Restarting for an update'),
  'ask-changes': question('Your recovery, before it changes the system'),
  'ask-stock-recovery': question('Your recovery, about the maker’s coming back'),
  'ask-app': question('Your recovery, when you leave it'),
  'tool-done': printed('Lines that mean it is done'),
  'tool-refused': printed('Lines that mean it was refused'),
  'least-tool': least('The host’s tool, at least'),
  'least-kit': least('The kit or its ZIP, at least'),
  'least-recovery': least('Your recovery, at least'),
  'set-parts': kind('Parts', 'list')('How a firmware set is cut'),
  'loose-builds': kind('Parts', 'list')('Builds whose bootloader takes images that are not the maker’s'),
  'fuse-reacts': choice('Record', 'Its warranty fuse reacts to', FUSE_CAUSES),
  'open-builds': kind('Root from inside', 'list')('Builds that are open to it, by number'),
  'inside-start': kind('Root from inside', 'text')('How it is begun'),
  'inside-restart': choice('Root from inside', 'A restart in the middle means', RESTART_MEANS),
  'inside-lasts': choice('Root from inside', 'It lasts', INSIDE_LASTS),
  'inside-undo': kind('Root from inside', 'text')('How it is taken off'),
} as const satisfies Record<string, WayKind>;

export type WayId = keyof typeof WAYS;
type Kinds = typeof WAYS;
export type WayValue<K extends WayId = WayId> = Kinds[K] extends { readonly choices: infer C }
  ? keyof C & string
  : Values[Kinds[K]['form']];
export const WAY_IDS = Object.keys(WAYS) as readonly WayId[];
export const isWayId = (id: string): id is WayId => Object.hasOwn(WAYS, id);

/** How sure it is, the surest first. */
export const SURENESS = ['read', 'seen done', 'only said', 'guessed'] as const;
export type WaySureness = (typeof SURENESS)[number];

export interface Way<V = WayValue> {
  readonly value: V;
  readonly sureness: WaySureness;
  /** Who or what says it. */
  readonly source: string;
  /** UTC milliseconds; null where it comes with its class. */
  readonly at: number | null;
}

/** What is known of a model's ways; null where nothing is. */
export type Ways = <K extends WayId>(id: K) => Way<WayValue<K>> | null;
export const NO_WAYS: Ways = () => null;

/** Values by themselves, such as the stand-ins have them. */
export type WayValues = { readonly [K in WayId]?: WayValue<K> };
