import type { ByteSource } from '../bytes/byte-source';
import { EternoError } from '../errors';
import type { Kit, KitOption, OptionValue } from '../kits/kit';
import type { Ports } from '../ports';
import { proveAgain } from './patch-image';
import type { ProofLine } from './prove-patch';
import type { OptionValues } from './steps-that-run';

/* Proving an image of which nobody knows how it was made: the kit's options, and what became of its verified-boot data. */

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

/** The kit's own choice with the verified-boot data as it was is the first. */
const waysOf = (kit: Kit) =>
  (['carry', 'rehash'] as const).flatMap((mode) =>
    choicesOf(kit).map((chosen) => ({ chosen, avb: { mode } }) as const),
  );

/**
 * The proof with the way that made the image; with the kit's own choice where none of them did.
 * @throws {EternoError} of `proveAgain` with the kit's own choice
 */
export async function proveHoweverMade(
  stock: ByteSource,
  kit: Kit,
  result: ByteSource,
  ports: Ports,
): Promise<readonly ProofLine[]> {
  const [own, ...others] = waysOf(kit);
  const first = await proveAgain(stock, kit, result, ports, own!);
  if (first.every(({ ok }) => ok)) return first;
  for (const way of others) {
    const lines = await proveAgain(stock, kit, result, ports, way).catch((thrown: unknown) => {
      // made this way the kit does not go onto the stock image at all
      if (thrown instanceof EternoError) return null;
      throw thrown;
    });
    if (lines?.every(({ ok }) => ok) === true) return lines;
  }
  return first;
}
