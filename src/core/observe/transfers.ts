import type { ObserveExpectation } from './expectation';
import { deedsOf, isOfSize, writesDone } from './deeds';
import type { Found, Sights } from './found';
import { both, held, NOTHING, splitName } from './found';
import { partsFound } from './parts';

/* What was sent, written, erased, copied, pushed and sideloaded. */

/** What a name of a partition says against the expected one. */
function nameFound(name: string, line: number, { partition, slot }: ObserveExpectation): Found {
  const named = splitName(name);
  if (partition === undefined) return NOTHING;
  const slotted = named.slot !== null && slot !== undefined;
  return both([
    held('partition', named.partition, line, partition, named.partition === partition.toLowerCase()),
    slotted ? held('slot', named.slot!, line, slot, named.slot === slot) : NOTHING,
  ]);
}

export function writeFound(sights: Sights, expectation: ObserveExpectation): Found {
  if (expectation.parts !== undefined) return partsFound(sights, expectation.parts);
  const wanted = expectation.step === 'erase' ? 'erase' : 'write';
  const done = writesDone(sights, wanted);
  const named = both(done.map(({ name, line }) => nameFound(name, line, expectation)));
  const size = expectation.image?.size;
  const sent = deedsOf(sights).filter(({ sight }) => sight.deed === 'send' && sight.kib !== null);
  const sizes = both(
    size === undefined
      ? []
      : sent.map(({ sight, line }) =>
          isOfSize(size, sight.kib!) ? NOTHING : held('size', `${sight.kib} KiB`, line, `${size}`, false),
        ),
  );
  // a part of an image is not yet the image
  const own = done.filter(
    ({ name, line, left }) => left === 0 && nameFound(name, line, expectation).differs.length === 0,
  );
  const last = own.at(-1);
  return both([
    dedup(named),
    sizes,
    last && sizes.differs.length === 0 ? held('transfer', 'done', last.line, undefined, true) : NOTHING,
    copyFound(sights, expectation),
  ]);
}

/** A success for another partition differs even where the expected one succeeded too. */
export function dedup({ met, differs }: Found): Found {
  const differing = new Set(differs.map(({ what }) => what));
  return { met: met.filter(({ what }) => !differing.has(what)), differs };
}

/** A block copy: its counts agree, and it is of as many bytes as the image. */
function copyFound(sights: Sights, expectation: ObserveExpectation): Found {
  const records = sights.of('records');
  const into = records.filter(({ sight }) => sight.way === 'in').at(-1);
  const out = records.filter(({ sight }) => sight.way === 'out').at(-1);
  const copied = sights.of('copied').at(-1);
  const size = expectation.image?.size;
  const whole =
    into !== undefined &&
    out !== undefined &&
    into.sight.whole === out.sight.whole &&
    into.sight.part === out.sight.part;
  if (!whole && !copied) return NOTHING;
  const named = sights.of('path').map(({ sight, line }) => nameFound(sight.name, line, expectation));
  const bytes =
    copied && size !== undefined
      ? held('size', String(copied.sight.bytes), copied.line, String(size), copied.sight.bytes === size)
      : NOTHING;
  const differs = both([...named, bytes]).differs.length > 0 || (into !== undefined && !whole);
  const line = (copied ?? out)!.line;
  return both([
    dedup(both(named)),
    bytes,
    differs ? NOTHING : held('transfer', 'done', line, undefined, true),
  ]);
}

export function pushFound(sights: Sights, { image }: ObserveExpectation): Found {
  const pushed = sights.of('pushed').at(-1);
  const pushing = sights.of('pushing').at(-1);
  if (!pushed || pushed.sight.files === 0) return NOTHING;
  const { bytes } = pushed.sight;
  const file = pushed.sight.file ?? pushing?.sight.file ?? null;
  const size =
    bytes === null || image?.size === undefined
      ? NOTHING
      : held('size', String(bytes), pushed.line, String(image.size), bytes === image.size);
  const name =
    file === null || image?.file === undefined
      ? NOTHING
      : held(
          'file',
          file,
          pushed.sight.file === null ? pushing!.line : pushed.line,
          image.file,
          file === image.file,
        );
  const odd = size.differs.length + name.differs.length > 0;
  return both([size, name, odd ? NOTHING : held('transfer', 'done', pushed.line, undefined, true)]);
}

export function sideloadFound(sights: Sights, { image }: ObserveExpectation): Found {
  const shares = sights.of('share');
  const full = shares.filter(({ sight }) => sight.share >= 1).at(-1) ?? sights.of('installed').at(-1);
  const named = shares.filter(({ sight }) => sight.file !== null).at(-1);
  const file =
    named && image?.file !== undefined
      ? held('file', named.sight.file!, named.line, image.file, named.sight.file === image.file)
      : NOTHING;
  return both([
    file,
    full && file.differs.length === 0 ? held('transfer', 'done', full.line, undefined, true) : NOTHING,
  ]);
}

/** A start from memory says only how much was sent. */
export function sendFound(sights: Sights, expectation: ObserveExpectation): Found {
  const { differs } = writeFound(sights, { ...expectation, partition: undefined });
  return { met: [], differs: differs.filter(({ what }) => what === 'size') };
}
