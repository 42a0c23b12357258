import 'server-only';
import type { FactChange, FactPreview, FactView } from '@/contracts/handset-view';
import { EternoError } from '@/core/errors';
import {
  byFactOrder,
  factKind,
  flattenPrinted,
  isFactKey,
  SIZE_PREFIX,
  TYPED_FACTS,
  UNSHOWN_FACTS,
} from '@/core/facts/catalogue';
import type { FlatFact } from '@/core/facts/catalogue';
import type { FactSource, ReportSource, ResolvedFact, Witness } from '@/core/facts/resolve-facts';
import { openContradictions, resolveFacts } from '@/core/facts/resolve-facts';
import type { InstalledBuild } from '@/core/fit/fit-package';
import type { HandsetFacts, PrintedText } from '@/core/formats/facts/parse-facts';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { insertFactChoice, insertFacts, readSecret, writeSecret } from '../repositories/handset-repository';
import { now } from './clock';
import type { HandsetHistory } from './handset-history';
import { historyOf } from './handset-history';
import { rootedAtBy } from './root-history';
import type { Dispute } from '@/core/words/dispute';
import { SPEAKERS } from '@/core/words/dispute';
import { observe } from '@/core/observe/hold';
import type { What } from '@/core/words/observe';
import { otherwiseNext } from '@/core/words/observe';

/** All that is known of a handset: what counts, with its sources, and what they contradict each other in. */
export interface KnownFacts {
  readonly typed: HandsetFacts;
  readonly resolved: readonly ResolvedFact[];
  readonly contradictions: readonly Dispute[];
  /** The newest patch level that has ever run on it, and so opened its data. */
  readonly dataPatchLevel: string | null;
  readonly value: (key: string) => string | null;
}

export const knownFacts = async (handsetId: string): Promise<KnownFacts> =>
  knownFrom(await historyOf(handsetId));

export function knownFrom({
  reports,
  choices,
  rootChanges,
  doneAt,
  dataPatchLevel,
}: HandsetHistory): KnownFacts {
  const resolved = resolveFacts(reports, { now: now(), rootedAt: rootedAtBy(rootChanges), choices, doneAt });
  const byKey = new Map(resolved.map((fact) => [fact.key, fact.value]));
  return {
    typed: typedFacts(byKey),
    resolved,
    contradictions: openContradictions(resolved),
    dataPatchLevel,
    value: (key) => byKey.get(key) ?? null,
  };
}

/** Kept facts as typed values again. */
function typedFacts(facts: ReadonlyMap<string, string>): HandsetFacts {
  const text = (key: string) => facts.get(key) ?? null;
  const number = (key: string) => (facts.has(key) ? Number(text(key)) : null);
  const flag = (key: string) => (facts.has(key) ? text(key) === 'true' : null);
  const partitions: Record<
    string,
    { size: number | null; hasSlot: boolean | null; logical: boolean | null }
  > = {};
  for (const [key, value] of facts)
    if (key.startsWith(SIZE_PREFIX))
      partitions[key.slice(SIZE_PREFIX.length)] = { size: Number(value), hasSlot: null, logical: null };
  return {
    fingerprint: text('fingerprint'),
    device: text('device'),
    model: text('model'),
    buildId: text('buildId'),
    incrementalVersion: text('incrementalVersion'),
    release: text('release'),
    sdk: number('sdk'),
    patchLevel: text('patchLevel'),
    firstApiLevel: number('firstApiLevel'),
    slotCount: number('slotCount'),
    currentSlot: text('currentSlot'),
    unlocked: flag('unlocked'),
    bootloader: text('bootloader'),
    baseband: text('baseband'),
    serial: null,
    batteryOk: flag('batteryOk'),
    maxDownloadSize: number('maxDownloadSize'),
    partitions,
  };
}

const SOURCE_WORDS: Readonly<Record<ReportSource, string>> = {
  link: 'over the link',
  pasted: 'pasted',
  typed: 'typed',
  file: 'from a file',
  model: 'of another of its model',
};
const saidBy = ({ witness, source, claim }: ResolvedFact) =>
  witness === 'person'
    ? source === 'model'
      ? 'typed by you for another of its model'
      : 'typed by you'
    : `${SPEAKERS[witness]}, ${SOURCE_WORDS[source]}${claim ? ', with root on' : ''}`;

/** The installed build with who said what, for holding packages and images against it. */
export function installedOf({ typed, resolved, value }: KnownFacts): InstalledBuild {
  return {
    ...typed,
    region: value('region'),
    sources: Object.fromEntries(resolved.map((fact) => [fact.key, saidBy(fact)])),
  };
}

const SHORT_WITNESS: Readonly<Record<Witness, string>> = {
  system: 'system',
  bootloader: 'bootloader',
  image: 'image',
  person: 'you',
};
const SHORT_SOURCES: Readonly<Record<ReportSource, string>> = {
  link: 'link',
  pasted: 'pasted',
  typed: 'typed',
  file: 'file',
  model: 'its model',
};

export function factViews({ resolved }: KnownFacts): FactView[] {
  return resolved
    .filter(({ key }) => !UNSHOWN_FACTS.includes(key))
    .map((fact) => {
      const { label, group } = factKind(fact.key);
      const { key, value, source, witness, at, claim, stale, contradiction, reports } = fact;
      const others =
        contradiction?.others.map((one) => ({
          value: one.value,
          said: `${SPEAKERS[one.witness]}, ${SOURCE_WORDS[one.source]}`,
          at: one.at,
        })) ?? [];
      return {
        key,
        label,
        group,
        value,
        source,
        witness,
        said: saidBy(fact),
        saidShort: witness === 'person' ? 'typed' : `${SHORT_WITNESS[witness]}, ${SHORT_SOURCES[source]}`,
        at,
        claim,
        stale,
        contradiction: contradiction && { kind: contradiction.kind, chosen: contradiction.chosen, others },
        sources: reports.length,
      };
    });
}

const witnessOf = (kind: PrintedText['kind']): Witness => (kind === 'bootloader' ? 'bootloader' : 'system');

export interface ReadText {
  readonly facts: HandsetFacts;
  readonly flat: readonly FlatFact[];
  readonly kind: FactPreview['kind'];
  readonly unread: readonly string[];
}

const nothingRead = () =>
  new EternoError(
    'bad-field',
    'Nothing in this text was understood: it holds no property of a running system and no bootloader variable. Nothing was kept.',
  );

/** @throws {EternoError} `bad-field` when nothing in the text can be read, `too-large` */
export function readText(text: string): ReadText {
  const printed = parsePrinted(text);
  if (printed.kind === 'nothing') throw nothingRead();
  const facts = interpretFacts(printed.values);
  const flat = flattenPrinted(printed.values);
  // lines of the right form that say nothing known: half a dump, or one in another spelling
  if (flat.length === 0 && facts.serial === null) throw nothingRead();
  return { facts, flat, kind: printed.kind, unread: printed.unread };
}

/** Whose text it is, by the reader of observations: what of its serial and its code name is told, and how. */
export function whoseText(text: string, serial: string | null, product: string | null) {
  const { met, differs } = observe(
    {
      step: 'read-facts',
      ...(serial === null ? {} : { serial }),
      ...(product === null ? {} : { product }),
    },
    text,
  );
  const of = (what: What) => differs.find((one) => one.what === what) ?? null;
  // a dump that was cut may name its model in its fingerprint alone
  const { device } = interpretFacts(parsePrinted(text).values);
  return {
    ownSerial: met.some(({ what }) => what === 'serial'),
    otherSerial: of('serial') !== null,
    otherProduct: of('product')?.seen ?? (product !== null && device !== product ? device : null),
  };
}

function againstHandset(text: string, serial: string | null, product: string | null): string | null {
  const { otherSerial, otherProduct } = whoseText(text, serial, product);
  const other: What[] = [
    ...(otherSerial ? ['serial' as const] : []),
    ...(otherProduct === null ? [] : ['product' as const]),
  ];
  return other.length === 0 ? null : otherwiseNext(null, other);
}

export async function previewFacts(handsetId: string, text: string): Promise<FactPreview> {
  const { facts, flat, kind, unread } = readText(text);
  const { value, typed } = await knownFacts(handsetId);
  const changes: FactChange[] = flat
    .filter((fact) => value(fact.key) !== fact.value)
    .map((fact) => ({
      key: fact.key,
      label: factKind(fact.key).label,
      before: value(fact.key),
      after: fact.value,
    }))
    .sort((a, b) => byFactOrder(a.key, b.key));
  const known = await readSecret(handsetId, 'serial');
  return {
    kind,
    changes,
    same: flat.length - changes.length,
    unread,
    serial: known === null || facts.serial === null ? 'not told' : known === facts.serial ? 'yes' : 'no',
    against: againstHandset(text, known, typed.device),
  };
}

/**
 * Keeps what was printed, and what of it could not be read.
 * @throws {EternoError} `refused` when it is another handset's serial or another model's code name,
 *   `bad-field` when nothing in it was understood
 */
export async function applyFacts(handsetId: string, text: string, source: FactSource): Promise<HandsetFacts> {
  const { facts, flat, kind, unread } = readText(text);
  const known = await readSecret(handsetId, 'serial');
  const { device } = (await knownFacts(handsetId)).typed;
  const { otherSerial, otherProduct } = whoseText(text, known, device);
  if (otherSerial)
    throw new EternoError('refused', 'The serial is another handset’s: nothing of this text was kept.');
  if (otherProduct !== null)
    throw new EternoError(
      'refused',
      `This is a text of ${otherProduct}, and this handset is ${device}: nothing of it was kept.`,
    );
  if (facts.serial !== null && known === null) await writeSecret(handsetId, 'serial', facts.serial);
  await insertFacts(handsetId, flat, { source, witness: witnessOf(kind), at: now() });
  await keepUnread(handsetId, unread);
  return facts;
}

/** What could not be read stays with the private values: it may hold a serial in a spelling nobody knows. */
async function keepUnread(handsetId: string, unread: readonly string[]): Promise<void> {
  if (unread.length > 0) await writeSecret(handsetId, 'unread', unread.slice(-2000).join('\n'));
}

export async function unreadLines(handsetId: string): Promise<number> {
  const kept = await readSecret(handsetId, 'unread');
  return kept === null ? 0 : kept.split('\n').length;
}

/** The first facts of a handset that was just put on the bench. */
export async function firstFacts(handsetId: string, { flat, facts, kind, unread }: ReadText): Promise<void> {
  if (facts.serial !== null) await writeSecret(handsetId, 'serial', facts.serial);
  await insertFacts(handsetId, flat, { source: 'pasted', witness: witnessOf(kind), at: now() });
  await keepUnread(handsetId, unread);
}

/** What an image of the running slot says of its own build: evidence that no module can alter. */
export async function tellFromImage(
  handsetId: string,
  facts: readonly FlatFact[],
  source: FactSource,
): Promise<void> {
  await insertFacts(handsetId, facts, { source, witness: 'image', at: now() });
}

/** @throws {EternoError} `bad-field` for a fact that is read, never typed */
export async function typeFact(handsetId: string, key: string, value: string): Promise<void> {
  if (!isFactKey(key) || !TYPED_FACTS.includes(key))
    throw new EternoError('bad-field', 'This fact is read, not typed: paste what the handset prints.');
  await insertFacts(handsetId, [{ key, value }], { source: 'typed', witness: 'person', at: now() });
}

/**
 * Settles a contradiction between equals.
 * @throws {EternoError} `refused` where evidence stands against a claim
 */
export async function chooseFact(
  handsetId: string,
  key: string,
  value: string,
  reason: string,
): Promise<void> {
  const fact = (await knownFacts(handsetId)).resolved.find((one) => one.key === key);
  if (!fact?.contradiction) throw new EternoError('conflict', 'Nothing contradicts this fact any more.');
  if (fact.contradiction.kind === 'claim against evidence')
    throw new EternoError(
      'refused',
      'A system that runs with root can be made to say anything: read it again in the bootloader, or with root off.',
    );
  if (value !== fact.value && !fact.contradiction.others.some((one) => one.value === value))
    throw new EternoError('bad-field', 'No source says that.');
  await insertFactChoice({ handsetId, key, value, reason, at: now() });
}
