/** A patch kit as read and checked: what a root provider hands over (docs/formats.md, "Patch kit"). */
export interface Kit {
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
  readonly steps: readonly KitStep[];
  /** Contents of the files that steps add, by their name in the kit. */
  readonly files: ReadonlyMap<string, Uint8Array>;
}

interface Owned {
  readonly uid: number | null;
  readonly gid: number | null;
  readonly replace: boolean;
}

/** Modes are the permission bits only; the kind of entry follows from the step. */
export type KitStep =
  | ({ readonly do: 'mkdir'; readonly path: string; readonly mode: number } & Owned)
  | ({ readonly do: 'add'; readonly path: string; readonly from: string; readonly mode: number } & Owned)
  | ({ readonly do: 'write'; readonly path: string; readonly text: string; readonly mode: number } & Owned)
  | ({ readonly do: 'link'; readonly path: string; readonly to: string } & Owned)
  | { readonly do: 'keep'; readonly path: string; readonly as: string; readonly ifPresent: boolean }
  | { readonly do: 'remove'; readonly path: string; readonly ifPresent: boolean }
  | {
      readonly do: 'replaceText';
      readonly path: string;
      readonly find: string;
      readonly with: string;
      readonly ifPresent: boolean;
    }
  | { readonly do: 'cmdline'; readonly append: string };

export type KitVariable = 'stock.sha256' | 'kit.id' | 'kit.version' | 'build.fingerprint';
export const KIT_VARIABLES: readonly KitVariable[] = [
  'stock.sha256',
  'kit.id',
  'kit.version',
  'build.fingerprint',
];
export const VARIABLE_PATTERN = /\{\{(.*?)\}\}/gs;

/** Paths of entries that a step puts there or changes. */
export function pathsWritten(kit: Pick<Kit, 'steps'>): string[] {
  return kit.steps.flatMap((step) =>
    step.do === 'cmdline' || step.do === 'remove' ? [] : step.do === 'keep' ? [step.as] : [step.path],
  );
}
