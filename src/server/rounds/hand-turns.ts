import 'server-only';
import type { HandTurn } from '@/contracts/round-view';
import type { WholePart } from '@/core/bench/whole-build';
import { isLogical, wholePackage, writeTurns } from '@/core/bench/whole-build';
import { writtenParts } from '@/core/packages/region-part';
import type { RoundStep } from '@/core/rounds/round';
import { hashCommand, quoteFor } from '@/core/steps/commands';
import { DEEDS } from '@/core/steps/deeds';
import { partitionName } from '@/core/words/step-evidence';
import { imageFileName } from '../services/image-view';
import type { OwnCommands } from '../services/vocabulary-service';
import { commandOf } from '../services/vocabulary-service';
import { buildParts } from './build-parts';
import type { RoundContext } from './round-context';
import { buildOfStep } from './round-context';
import { slotsOfPart } from './step-writes';

/* A whole build as it is written by hand: its files, one after another, with the restarts in between. */

/** What a file is called on the person's computer: as it is downloaded, or as it is taken out. */
const fileNameOf = ({ partition, kept }: WholePart) => (kept ? imageFileName(kept) : `${partition}.img`);

function writeTurn(
  context: RoundContext,
  step: RoundStep,
  part: WholePart,
  own: OwnCommands,
  serial: string,
): HandTurn {
  const { partition, kept, size, sha256 } = part;
  const fileName = fileNameOf(part);
  const build = buildOfStep(context, step, 'the target');
  const whole = wholePackage(context.bench, build);
  const slots = slotsOfPart(context, step, part);
  // a patched image is proved against the stock image that it was made of
  const stock = context.bench.images.find(({ sha256: one }) => one === kept?.stockSha256);
  const stockName = stock ? imageFileName(stock) : fileName;
  const byPartition = DEEDS[step.key].shown?.mode === 'bootloader';
  return {
    do: 'write',
    partition,
    targets: slots.map((slot) => partitionName({ partition, slot })),
    file: kept && {
      sha256: kept.sha256,
      name: fileName,
      sizeBytes: kept.sizeBytes,
      hashCommand: hashCommand(own.shell, fileName),
    },
    fileName,
    take: kept
      ? null
      : `eterno take ${quoteFor(own.shell, whole?.fileName ?? 'PACKAGE')} --image ${partition} --out ${fileName}`,
    sizeBytes: size,
    sha256,
    hashCommand: hashCommand(own.shell, fileName),
    commands: byPartition
      ? slots.flatMap(
          (slot) =>
            commandOf(own, 'write', {
              partition,
              slot: slot ?? '',
              target: partitionName({ partition, slot }),
              file: fileName,
              stock: stockName,
              facts: 'facts.json',
              serial,
              address: 'HOST:PORT',
            }) ?? [],
        )
      : [],
  };
}

/** The archives of a set, in the order in which a tool takes them; empty where no set of several was opened. */
function partTurns({ bench, round, rootPartition }: RoundContext, step: RoundStep): HandTurn[] {
  const { writes } = DEEDS[step.key];
  const set = wholePackage(bench, buildOfStep({ round }, step, 'the target'))?.report.set;
  if (!set) return [];
  return writtenParts(set).map(({ file, role, members }) => {
    const holds = members.map(({ partition, name }) => partition ?? name);
    const patched = writes?.parts?.patched === true && holds.some((one) => one === rootPartition);
    return { do: 'part', role, fileName: file, holds, patched };
  });
}

/** Empty at a step that writes no whole build. */
export function handTurns(
  context: RoundContext,
  step: RoundStep,
  own: OwnCommands,
  serial: string,
): HandTurn[] {
  const parts = buildParts(context, step);
  const restart = (into: 'bootloader' | 'userspace'): HandTurn => ({
    do: 'restart',
    into,
    command:
      into === 'bootloader' ? commandOf(own, 'enter bootloader', { serial, address: 'HOST:PORT' }) : null,
  });
  const inDownload = DEEDS[step.key].shown?.mode === 'download';
  const archives = inDownload ? partTurns(context, step) : [];
  if (archives.length > 0) return archives;
  // a set is written as a whole, by one press of its tool
  const turns =
    DEEDS[step.key].shown?.mode === 'bootloader'
      ? writeTurns(parts, (partition) => isLogical(context.facts, partition))
      : parts.map((part) => ({ do: 'write', part }) as const);
  return turns.map((turn) =>
    turn.do === 'restart' ? restart(turn.into) : writeTurn(context, step, turn.part, own, serial),
  );
}
