/** A patch kit as read and checked: what a root provider hands over (docs/formats.md, "Patch kit"). */
export interface Kit {
  readonly formatVersion: 1 | 2;
  readonly id: string;
  readonly name: string;
  readonly version: string;
  readonly versionCode: number;
  readonly channel: 'stable' | 'preview';
  readonly supports: {
    /** Inclusive. */
    readonly sdk: readonly [number, number] | null;
    readonly partitions: readonly string[] | null;
    readonly architectures: readonly string[] | null;
  };
  /** Path of the note that marks a patched ramdisk. */
  readonly marker: string | null;
  /** What the person chooses, by its name. */
  readonly options: Readonly<Record<string, KitOption>>;
  /** What the kit itself does after so many failed starts in a row; null where it says nothing. */
  readonly afterFailedStarts: {
    readonly starts: number;
    readonly does: 'rest-modules' | 'nothing';
  } | null;
  /** The app that belongs to it. */
  readonly companion: { readonly name: string; readonly minimumVersionCode: number } | null;
  readonly steps: readonly KitStep[];
  /** Contents of the files that steps add, by their name in the kit. */
  readonly files: ReadonlyMap<string, Uint8Array>;
}

interface OptionWords {
  readonly title: string;
  readonly explain: string;
}
export type KitOption =
  | (OptionWords & { readonly kind: 'bool'; readonly default: boolean })
  | (OptionWords & {
      readonly kind: 'choice';
      readonly choices: readonly string[];
      readonly default: string;
    });
export type OptionValue = boolean | string;

/** An option by its name; null where the kit declares none of that name. */
export const optionOf = ({ options }: Pick<Kit, 'options'>, name: string): KitOption | null =>
  Object.hasOwn(options, name) ? options[name]! : null;

/** Whether a value is one that an option takes. */
export const takesValue = (option: KitOption, value: unknown): value is OptionValue =>
  option.kind === 'bool'
    ? typeof value === 'boolean'
    : typeof value === 'string' && option.choices.includes(value);

/** One condition of a step; ranges are inclusive. */
export type KitCondition =
  | { readonly of: 'sdk' | 'header'; readonly range: readonly [number, number] }
  | { readonly of: 'architecture' | 'partition'; readonly oneOf: readonly string[] }
  /** The beginning of the version text in the image's own kernel; it does not end inside a number. */
  | { readonly of: 'kernel'; readonly prefix: string }
  | { readonly of: 'option'; readonly name: string; readonly value: OptionValue };

interface Conditional {
  /** All have to hold, in this order; else the step is skipped. */
  readonly when: readonly KitCondition[];
}
interface InRamdisk extends Conditional {
  /** Of vendor_boot: a type or a name; null takes the only one, else the platform's. */
  readonly fragment: string | null;
}
interface Owned extends InRamdisk {
  readonly uid: number | null;
  readonly gid: number | null;
  readonly replace: boolean;
}
interface OnEntries extends InRamdisk {
  readonly path: string;
  readonly ifPresent: boolean;
  /** `*` in the path stands for any bytes but `/`. */
  readonly glob: boolean;
}

/** Modes are the permission bits only; the kind of entry follows from the step. */
export type KitStep =
  | ({ readonly do: 'mkdir'; readonly path: string; readonly mode: number } & Owned)
  | ({ readonly do: 'add'; readonly path: string; readonly from: string; readonly mode: number } & Owned)
  | ({ readonly do: 'write'; readonly path: string; readonly text: string; readonly mode: number } & Owned)
  | ({ readonly do: 'link'; readonly path: string; readonly to: string } & Owned)
  | ({
      readonly do: 'keep';
      readonly path: string;
      readonly as: string;
      readonly ifPresent: boolean;
    } & InRamdisk)
  | ({ readonly do: 'remove' } & OnEntries)
  | ({
      readonly do: 'replaceText';
      readonly find: string;
      readonly with: string;
      /** No occurrence is no error. */
      readonly ifFound: boolean;
    } & OnEntries)
  | ({ readonly do: 'cmdline'; readonly append: string } & Conditional)
  | ({
      readonly do: 'replaceBytes';
      readonly in: 'kernel' | 'dtb';
      readonly find: Uint8Array;
      /** As many bytes. */
      readonly with: Uint8Array;
      readonly ifFound: boolean;
    } & Conditional)
  | ({ readonly do: 'kernel'; readonly from: string } & Conditional);

export type RamdiskStep = Extract<KitStep, InRamdisk>;

const VARIABLES_1 = ['stock.sha256', 'kit.id', 'kit.version', 'build.fingerprint'] as const;
const VARIABLES_2 = ['stock.sha1', 'image.partition', 'image.headerVersion', 'seed.hex16'] as const;
export type KitVariable = (typeof VARIABLES_1)[number] | (typeof VARIABLES_2)[number] | `option.${string}`;

/** Every variable that texts of a kit may hold. */
export const variablesOf = ({
  formatVersion,
  options,
}: Pick<Kit, 'formatVersion' | 'options'>): readonly KitVariable[] =>
  formatVersion === 1
    ? VARIABLES_1
    : [...VARIABLES_1, ...VARIABLES_2, ...Object.keys(options).map((name) => `option.${name}` as const)];
export const VARIABLE_PATTERN = /\{\{(.*?)\}\}/gs;

/** Whether any of its steps changes the kernel. */
export const changesKernel = ({ steps }: Pick<Kit, 'steps'>): boolean =>
  steps.some((step) => step.do === 'kernel' || (step.do === 'replaceBytes' && step.in === 'kernel'));

/** Paths of entries that a step puts there or changes. */
export function pathsWritten(kit: Pick<Kit, 'steps'>): string[] {
  return kit.steps.flatMap((step) => {
    switch (step.do) {
      case 'keep':
        return [step.as];
      case 'remove':
      case 'cmdline':
      case 'replaceBytes':
      case 'kernel':
        return [];
      default:
        return [step.path];
    }
  });
}
