import { indexOfBytes } from '../bytes/bytes';
import { EternoError } from '../errors';
import type { Kernel } from '../formats/boot-image/kernel';
import { kernelSection } from '../formats/boot-image/kernel';
import { withPartHeader } from '../bytes/part-header';
import type { Kit } from '../kits/kit';
import type { Ports } from '../ports';
import type { RunningStep } from './steps-that-run';

/* What a kit's steps make of sections beside the ramdisk (docs/formats.md, "Patch kit"). */

export interface StockSections {
  /** Null where the image has none, or nothing asks for it. */
  readonly kernel: Kernel | null;
  readonly dtb: Uint8Array | null;
}

/** Bytes that a step changed, and what stood there: put back in reverse order they give the stock's again. */
interface Edit {
  readonly at: number;
  readonly before: Uint8Array;
}

/** A section as the steps leave it; the kernel unpacked. */
export interface SectionNow {
  readonly bytes: Uint8Array;
  readonly edits: readonly Edit[];
  /** It took the place of the stock's: nothing of that is left in it. */
  readonly isWhole: boolean;
}

/** What no step changed is null. */
export interface AppliedSections {
  readonly kernel: SectionNow | null;
  readonly dtb: SectionNow | null;
}

/** Kinds a changed kernel is packed in again. */
const PACKED_AGAIN: readonly Kernel['compression'][] = ['none', 'gzip', 'lz4-legacy'];

const failed = (step: number, message: string) =>
  new EternoError('kit-step-failed', `step ${step}: ${message}`, { details: { step } });

/**
 * Runs the steps on kernel and device tree; pure.
 * @throws {EternoError} `kit-step-failed` with the step's number, `unsupported` for a kernel whose kind can't be
 *   written
 */
export function applySections(
  kit: Pick<Kit, 'files'>,
  steps: readonly RunningStep[],
  stock: StockSections,
): AppliedSections {
  let now: AppliedSections = { kernel: null, dtb: null };
  for (const { step, number } of steps) {
    if (step.do === 'kernel') {
      if (stock.kernel === null) throw failed(number, 'the image has no kernel that could be replaced');
      now = { ...now, kernel: { bytes: kit.files.get(step.from)!, edits: [], isWhole: true } };
    } else if (step.do === 'replaceBytes') {
      const before = now[step.in] ?? unchanged(stock, step.in);
      const replaced = before && replacedIn(before, step);
      if (replaced === null && step.ifFound) continue;
      if (before === null) throw failed(number, `the image has no ${step.in}`);
      if (replaced === null) throw failed(number, `the ${step.in} does not hold those bytes`);
      if (step.in === 'kernel') needPackedAgain(stock.kernel!, before, number);
      now = { ...now, [step.in]: replaced };
    }
  }
  return now;
}

function unchanged({ kernel, dtb }: StockSections, section: 'kernel' | 'dtb'): SectionNow | null {
  const bytes = section === 'dtb' ? dtb : (kernel?.plain ?? null);
  return bytes && { bytes, edits: [], isWhole: false };
}

function needPackedAgain({ compression }: Kernel, { isWhole }: SectionNow, step: number): void {
  if (isWhole || PACKED_AGAIN.includes(compression)) return;
  throw new EternoError(
    'unsupported',
    `step ${step}: the kernel is packed as ${compression}, which can't be written here`,
    { details: { step } },
  );
}

/** Null where it does not hold those bytes. */
function replacedIn(
  before: SectionNow,
  { find, with: replacement }: Extract<RunningStep['step'], { do: 'replaceBytes' }>,
): SectionNow | null {
  const bytes = before.bytes.slice();
  const edits: Edit[] = [];
  for (let at = indexOfBytes(bytes, find); at >= 0; at = indexOfBytes(bytes, find, at + find.length)) {
    bytes.set(replacement, at);
    edits.push({ at, before: find });
  }
  return edits.length === 0 ? null : { ...before, bytes, edits: [...before.edits, ...edits] };
}

/** The bytes as they were before the steps. */
export function takenBack(bytes: Uint8Array, edits: readonly Edit[]): Uint8Array {
  const out = bytes.slice();
  for (const { at, before } of [...edits].reverse()) out.set(before, at);
  return out;
}

/** The changed sections as they go into the image. @throws {EternoError} of packing */
export async function packSections(
  { kernel, dtb }: AppliedSections,
  stock: StockSections,
  codecs: Ports['codecs'],
  strong: boolean,
): Promise<{ readonly kernel?: Uint8Array; readonly dtb?: Uint8Array }> {
  const own = stock.kernel;
  return {
    ...(kernel && own
      ? {
          kernel: kernel.isWhole
            ? withPartHeader(own, kernel.bytes)
            : await kernelSection(own, kernel.bytes, codecs, strong),
        }
      : {}),
    ...(dtb ? { dtb: dtb.bytes } : {}),
  };
}
