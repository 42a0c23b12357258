import type { ByteSource } from '../bytes/byte-source';
import { EternoError } from '../errors';
import type { Kit, KitOption, OptionValue } from '../kits/kit';
import type { Ports } from '../ports';
import { proveAgain } from './patch-image';
import type { ProofLine } from './prove-patch';
import type { OptionValues } from './steps-that-run';

/* Proving an image of which nobody knows what was chosen of its kit's options. */

/** So many choices are tried; a kit with more is held against its own choice and the first of the others. */
const MOST_CHOICES = 64;

const valuesOf = (option: KitOption): readonly OptionValue[] =>
  option.kind === 'bool' ? [option.default, !option.default] : [option.default, ...option.choices];

/** Every way to choose, the kit's own first. */
export function choicesOf({ options }: Pick<Kit, 'options'>): OptionValues[] {
  let choices: OptionValues[] = [{}];
  for (const [name, option] of Object.entries(options)) {
    const values = [...new Set(valuesOf(option))];
    choices = values.flatMap((value) => choices.map((before) => ({ ...before, [name]: value })));
  }
  return choices.slice(0, MOST_CHOICES);
}

/**
 * The proof with the choice that made the image; with the kit's own where none of them did.
 * @throws {EternoError} of `proveAgain` with the kit's own choice
 */
export async function proveWithAnyOptions(
  stock: ByteSource,
  kit: Kit,
  result: ByteSource,
  ports: Ports,
): Promise<readonly ProofLine[]> {
  const [own, ...others] = choicesOf(kit);
  const first = await proveAgain(stock, kit, result, ports, { chosen: own! });
  if (first.every(({ ok }) => ok)) return first;
  for (const chosen of others) {
    const lines = await proveAgain(stock, kit, result, ports, { chosen }).catch((thrown: unknown) => {
      // with this choice the kit does not go onto the stock image at all
      if (thrown instanceof EternoError) return null;
      throw thrown;
    });
    if (lines?.every(({ ok }) => ok) === true) return lines;
  }
  return first;
}
