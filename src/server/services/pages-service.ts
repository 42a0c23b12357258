import 'server-only';
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
import { roundContext, stockFor } from '../rounds/round-context';
import { roundView } from '../rounds/round-view';
import { commandOf, ownCommands } from './vocabulary-service';

/* Pages of a round to keep, to take along and to show. */

export const PAGE_KINDS = ['rescue', 'run-sheet', 'report'] as const;
export type PageKind = (typeof PAGE_KINDS)[number];
export const isPageKind = (text: string): text is PageKind =>
  (PAGE_KINDS as readonly string[]).includes(text);

const minutes = ([expected, slow]: readonly [number, number]) =>
  `${Math.max(1, Math.round(expected))} to ${Math.max(1, Math.round(slow))} min`;
const said = ({ evidence }: Pick<RoundStepView, 'evidence'>) =>
  evidence.map(({ what, strength }) => (strength === 'weak' ? `${what} (weak)` : what));

async function inputOf(context: RoundContext, view: RoundView): Promise<PageInput> {
  const { handset, bench } = context;
  const own = await ownCommands();
  const slot = view.handset.slot;
  const stock = context.steps.map((step) => stockFor(context, step)).filter((image) => image !== null);
  const kept = [...new Set(stock)].map((image) => ({
    what: 'stock image',
    partition: image.partition,
    sha256: image.sha256,
    sizeBytes: image.sizeBytes,
  }));
  const recovery = bench.images
    .filter(
      (image) =>
        image.role === 'stock' &&
        image.partition === context.recoveryHome &&
        image.fingerprint === context.facts.fingerprint &&
        !stock.includes(image),
    )
    .map((image) => ({
      what: 'stock image with the recovery',
      partition: image.partition,
      sha256: image.sha256,
      sizeBytes: image.sizeBytes,
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
    images: [...kept, ...recovery],
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
  if (kind === 'rescue') {
    const { round } = await roundContext(roundId);
    await appendEvent({
      at: now(),
      handsetId: round.handsetId,
      roundId,
      kind: 'rescue-page',
      data: { version: 1, characters: text.length },
    });
    // the page that waits for it learns of it when it is written down, not when it was clicked
    publish({ type: 'round', roundId, version: round.version });
  }
  return new Response(text, {
    headers: {
      'content-type': 'text/markdown; charset=utf-8',
      'content-disposition': `attachment; filename="${kind}.md"`,
      'cache-control': 'no-store',
    },
  });
}
