import 'server-only';
import { kitOnIt, recoveriesShelved } from '@/core/bench/judgements';
import { DEEDS } from '@/core/steps/deeds';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { blankIn } from '@/core/sharing/blank-private';
import type { PageInput, PlainDocument } from '@/core/rounds/documents';
import { rescuePage, roundReport, runSheet, toMarkdown } from '@/core/rounds/documents';
import type { RoundView, RoundStepView } from '@/contracts/round-view';
import { wayBackWords } from '@/core/words/way-back';
import { appendEvent } from '../repositories/event-repository';
import { now } from './clock';
import { publish } from './message-bus';
import type { RoundContext } from '../rounds/round-context';
import { imageFileName } from './image-view';
import { privateValuesOf } from './private-values';
import { rescueFiles, rescueSignature } from '../rounds/rescue';
import { roundContext } from '../rounds/round-context';
import { openInVault, openProved } from '../vault/vault';
import type { ZipMember } from '@/platform/node/zip-stream';
import { zipStream } from '@/platform/node/zip-stream';
import { roundView } from '../rounds/round-view';
import { commandOf, ownCommands } from './vocabulary-service';
import { handsetClass } from './way-service';

/* Pages of a round to keep, to take along and to show. */

export const PAGE_KINDS = ['rescue', 'run-sheet', 'report'] as const;
export type PageKind = (typeof PAGE_KINDS)[number];
export const isPageKind = (text: string): text is PageKind =>
  (PAGE_KINDS as readonly string[]).includes(text);

const utf8 = (text: string) => new TextEncoder().encode(text);
const minutes = ([expected, slow]: readonly [number, number]) =>
  `${Math.max(1, Math.round(expected))} to ${Math.max(1, Math.round(slow))} min`;
const said = ({ evidence }: Pick<RoundStepView, 'evidence'>) =>
  evidence.map(({ what, strength }) => (strength === 'weak' ? `${what} (weak)` : what));

/** A recovery of the person's own that lies there by the slot map, or that the round puts there. */
function recoveryThere({ subject, bench, steps }: RoundContext): string | null {
  const lies = subject.cells.some(
    ({ sha256 }) => bench.images.find((image) => image.sha256 === sha256)?.role === 'recovery',
  );
  const own = recoveriesShelved(subject, bench)[0];
  return own && (lies || steps.some(({ key }) => DEEDS[key].image?.what === 'own recovery'))
    ? `${own.name} ${own.version}`
    : null;
}

async function inputOf(context: RoundContext, view: RoundView): Promise<PageInput> {
  const { handset, bench } = context;
  const own = await ownCommands();
  const slot = view.handset.slot;
  const images = rescueFiles(context).map(({ what, partition, slot: on, build, image }) => ({
    what,
    partition,
    slot: on,
    build: splitFingerprint(build)?.id ?? build,
    file: image && { name: imageFileName(image), sha256: image.sha256, sizeBytes: image.sizeBytes },
  }));
  const back = bench.images.find(
    ({ role, partition, fingerprint }) =>
      role === 'stock' && partition === view.partition && fingerprint === context.facts.fingerprint,
  );
  const values = {
    partition: view.partition,
    slot,
    target: slot === '' ? view.partition : `${view.partition}_${slot}`,
    file: back ? imageFileName(back) : 'STOCK.img',
    stock: back ? imageFileName(back) : 'STOCK.img',
    facts: 'facts.json',
    serial: 'SERIAL',
    address: 'HOST:PORT',
  };
  return {
    title: view.title,
    handset: handset.name,
    model: handset.model,
    build: view.handset.build,
    slot,
    partition: view.partition,
    lane: view.lane,
    madeAt: `${new Date(now()).toISOString().slice(0, 16).replace('T', ' ')} UTC`,
    wayBack: wayBackWords(view.wayBack.says),
    images,
    ways: context.subject.ways,
    writesIn:
      context.known.value('bootloaderWrites') === 'no' ||
      handsetClass(context.subject) === 'one-slot-download'
        ? 'download'
        : 'bootloader',
    ownRecovery: recoveryThere(context),
    restsAfter: kitOnIt(context.subject, bench, context.rootPartition)?.restsAfter ?? null,
    commands: [
      { what: 'Into the bootloader', command: commandOf(own, 'enter bootloader', values) },
      { what: 'What it is', command: commandOf(own, 'read variables', values) },
      { what: 'Write the stock image', command: commandOf(own, 'write', values) },
      { what: 'Start it', command: commandOf(own, 'restart', values) },
    ],
  };
}

/**
 * A page as a plain document, private values blanked in every text of it.
 * @throws {EternoError} `not-found`
 */
export async function roundPage(roundId: string, kind: PageKind): Promise<PlainDocument> {
  const context = await roundContext(roundId);
  const view = await roundView(roundId);
  const input = await inputOf(context, view);
  const document =
    kind === 'rescue'
      ? rescuePage(input)
      : kind === 'run-sheet'
        ? runSheet(
            input,
            view.steps.map(({ text, minutes: planned, ifItEndsHere, command }) => ({
              title: text.title,
              todo: text.todo,
              dont: text.dont,
              minutes: minutes(planned),
              ifItEndsHere,
              command,
            })),
          )
        : roundReport(
            input,
            view.steps.map((step) => ({
              title: step.title,
              state: step.state,
              took: step.workedSeconds === null ? '' : `${Math.round(step.workedSeconds)} s`,
              by: step.actor ?? '',
              seen: said(step),
            })),
            view.signOff.map((claim) => ({
              claim: claim.claim,
              seen: claim.missing === null ? said(claim) : [...said(claim), claim.missing],
            })),
            view.overrides.map(({ checkId, reason }) => ({ check: checkId, reason })),
          );
  return blankIn(document, await privateValuesOf(context.handset.id));
}

/** The page as a Markdown file; fetching the rescue page is written down. */
export async function pageResponse(roundId: string, kind: PageKind): Promise<Response> {
  const text = toMarkdown(await roundPage(roundId, kind));
  if (kind === 'rescue') await noteRescue(roundId, text);
  return new Response(text, {
    headers: {
      'content-type': 'text/markdown; charset=utf-8',
      'content-disposition': `attachment; filename="${kind}.md"`,
      'cache-control': 'no-store',
    },
  });
}

async function noteRescue(roundId: string, text: string): Promise<void> {
  const context = await roundContext(roundId);
  const { round } = context;
  await appendEvent({
    at: now(),
    handsetId: round.handsetId,
    roundId,
    kind: 'rescue-page',
    data: { version: 1, characters: text.length, signature: rescueSignature(context) },
  });
  // the page that waits for it learns of it when it is written down, not when it was clicked
  publish({ type: 'round', roundId, version: round.version });
}

/**
 * The rescue page and every file that it names, as one ZIP: what helps when nothing else opens.
 * @throws {EternoError} `not-found`, `bad-hash` where a file of the vault was damaged or is gone
 */
export async function rescueResponse(roundId: string): Promise<Response> {
  const text = toMarkdown(await roundPage(roundId, 'rescue'));
  const found = rescueFiles(await roundContext(roundId)).flatMap(({ image }) => image ?? []);
  const images = [...new Map(found.map((image) => [image.sha256, image])).values()];
  for (const { sha256 } of images) await (await openProved('images', sha256)).close();
  const members = async function* (): AsyncGenerator<ZipMember> {
    yield { name: 'rescue.md', bytes: utf8(text), stored: false };
    const sums = images.map((image) => `${image.sha256}  ${imageFileName(image)}\n`).join('');
    yield { name: 'SHA256SUMS', bytes: utf8(sums), stored: false };
    for (const image of images) {
      const source = await openInVault('images', image.sha256);
      try {
        yield { name: imageFileName(image), bytes: source, stored: true };
      } finally {
        await source.close();
      }
    }
  };
  await noteRescue(roundId, text);
  return new Response(zipStream(members()), {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': 'attachment; filename="rescue.zip"',
      'cache-control': 'no-store',
    },
  });
}
