import type { Chance, ModuleOutcome } from '@/core/modules/chance';
import type { NextBatch } from '@/core/modules/bring-back';
import type { Clash } from '@/core/modules/clashes';
import type { ModuleFacts } from '@/core/modules/read-module';
import type { StepSize } from '@/core/modules/step-size';
import type { Caution, SwitchOff } from '@/core/modules/switch-off';

export interface ModuleView extends Pick<
  ModuleFacts,
  'scopes' | 'paths' | 'scripts' | 'description' | 'name' | 'version' | 'id'
> {
  readonly sha256: string;
  readonly sizeBytes: number;
  readonly addedAt: number;
  /** Handsets that are judged by this file; of one that tells another version, which. */
  readonly on: readonly {
    readonly id: string;
    readonly name: string;
    readonly otherVersion: string | null;
  }[];
}

export interface MatrixCell {
  readonly outcome: ModuleOutcome;
  readonly trials: number;
  readonly note: string;
  readonly at: number;
}

export interface MatrixRow {
  readonly kind: 'kit' | 'recovery' | 'module';
  readonly id: string;
  readonly name: string;
  /** By fingerprint; what is missing was never tried. */
  readonly cells: Readonly<Record<string, MatrixCell>>;
}

export interface Matrix {
  readonly columns: readonly {
    readonly fingerprint: string;
    readonly buildId: string;
    readonly product: string;
  }[];
  readonly rows: readonly MatrixRow[];
}

export interface BeforeUpdate {
  readonly from: string;
  readonly to: string;
  readonly isUpdate: boolean;
  readonly size: StepSize;
  readonly kernelChanged: boolean | null;
  /** After so many failed starts its kit rests all modules; null where no kit of it says so. */
  readonly restsAfter: number | null;
  readonly modules: readonly (Chance &
    SwitchOff & {
      readonly name: string;
      /** As the handset tells it. */
      readonly version: string | null;
      /** The version on the shelf that its file was read from, where that is another. */
      readonly readAs: string | null;
    })[];
  /** First batch of those that were off, and what is to be expected in all; null where none comes back. */
  readonly back: NextBatch | null;
}

export interface ModulesView {
  readonly handsets: readonly { readonly id: string; readonly name: string; readonly modules: number }[];
  readonly handset: { readonly id: string; readonly name: string } | null;
  readonly caution: Caution;
  readonly limit: number;
  readonly shelf: readonly ModuleView[];
  /** Modules that the handset says it has and whose file nobody has read. */
  readonly unread: readonly string[];
  readonly clashes: readonly Clash[];
  readonly before: BeforeUpdate | null;
  readonly matrix: Matrix;
}
