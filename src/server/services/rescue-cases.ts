import 'server-only';
import { caseStateSchema } from '@/contracts/rescue-inputs';
import type { BackBy, CaseState, KeptCase, PastCase, RescueMark } from '@/contracts/rescue-view';
import { kitItem, kitOnIt, rootOf } from '@/core/bench/judgements';
import { modulesOf } from '@/core/bench/modules-judged';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { Cure } from '@/core/rescue/line-ladder';
import { NOT_STARTING } from '@/core/rescue/causes';
import type { ReadAnswer } from '@/core/rescue/read-answers';
import { aboutWhatShows, answersIn } from '@/core/rescue/read-answers';
import type { ClassId } from '@/core/ways/classes';
import * as say from '@/core/words/step-evidence';
import type { CauseId, RepairId, RungId, SymptomId } from '@/core/words/rescue';
import { appendEvent, eventsOf } from '../repositories/event-repository';
import { readSecret } from '../repositories/handset-repository';
import { findRound, listRounds, stepsOf } from '../repositories/round-repository';
import { dropSetting, readSetting, settingsLike, writeSetting } from '../repositories/setting-repository';
import { RESCUE_CASE } from '../db/setting-keys';
import type { KnownHandset } from './bench-reading';
import { needHandset, readBench, readSubject } from './bench-reading';
import { now } from './clock';
import { knownFacts, whoseText } from './fact-service';
import { variablesText } from './link-facts';
import { linkOf, listedNow } from './link-service';
import { noteModuleTrial } from './module-service';
import { noteEdge, noteTrial } from './record-service';
import { tellRoot } from './root-history';

/* A case of trouble: kept while it is open, however often its page is left, and written down when it ends. */

/** Whose case it is: a handset's, or that of one that was never here, by its class. */
export interface CaseOf {
  readonly handsetId: string | null;
  readonly like: ClassId | null;
}

function keyOf({ handsetId, like }: CaseOf): string {
  const whose = handsetId ?? like;
  if (whose === null) throw new EternoError('bad-field', 'A case is of a handset, or of a class.');
  return `${RESCUE_CASE}${whose}`;
}
export const caseKey = (handsetId: string): string => keyOf({ handsetId, like: null });

/** What is no case any more, by a word that went, is taken as none. */
function decoded(value: string | null): KeptCase | null {
  if (value === null) return null;
  const { openedAt, round = null, ...state } = JSON.parse(value) as KeptCase;
  return caseStateSchema.isValidSync(state) ? { ...state, openedAt, round } : null;
}

export const keptCase = async (of: CaseOf): Promise<KeptCase | null> => decoded(await readSetting(keyOf(of)));

/** Of whom a case is open: ids of handsets, and of classes. */
export const openCases = async (): Promise<ReadonlySet<string>> =>
  new Set((await settingsLike(RESCUE_CASE)).map(({ key }) => key.slice(RESCUE_CASE.length)));

/** Keeps a case as it stands; the first time is when it began. One of which nothing is said is none. */
export async function saveCase({ state, ...of }: CaseOf & { readonly state: CaseState }): Promise<void> {
  if (of.handsetId !== null) await needHandset(of.handsetId);
  if (state.symptoms.length + state.answers.length + state.tried.length + state.rungs.length === 0)
    return dropSetting(keyOf(of));
  const before = await keptCase(of);
  const kept: KeptCase = { ...state, openedAt: before?.openedAt ?? now(), round: before?.round ?? null };
  await writeSetting(keyOf(of), JSON.stringify(kept));
}

/** The round that does the repair of a case; where no case is kept, one begins with it. */
export async function tieRound(
  handsetId: string,
  state: CaseState,
  round: NonNullable<KeptCase['round']>,
): Promise<void> {
  const before = await keptCase({ handsetId, like: null });
  const kept: KeptCase = { ...(before ?? { ...state, openedAt: now() }), round };
  await writeSetting(caseKey(handsetId), JSON.stringify(kept));
}

/** Whether the round of a case came to its end, and a start was seen in it. */
export async function isBackByRound(kept: KeptCase | null): Promise<boolean> {
  if (!kept?.round) return false;
  const round = await findRound(kept.round.id);
  return round !== null && round.state === 'closed' && round.reached !== 'no';
}

/** The build whose image lies where root sits, and the slot that last ran. */
async function knownBefore(handsetId: string): Promise<Parameters<typeof answersIn>[1]> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  const { currentSlot, fingerprint } = subject.facts.typed;
  const { partition } = rootOf(subject, bench);
  const cell = subject.cells.find(
    (one) => one.partition === partition && (one.slot === currentSlot || one.slot === '-'),
  );
  const image = bench.images.find(({ sha256 }) => sha256 === cell?.sha256);
  const dispute = subject.facts.contradictions.find(({ key }) => key === 'currentSlot');
  const started = [dispute?.first, dispute?.other].find((one) => one?.witness === 'system');
  return { build: image?.fingerprint ?? fingerprint, slot: started?.value ?? currentSlot };
}

/** What a linked handset says in the mode that it is in. */
async function asked(handsetId: string): Promise<string> {
  const handset = await needHandset(handsetId);
  const link = linkOf(handset);
  const listed = await link.listed();
  if (listed === null)
    throw new EternoError('link-lost', 'It is not listed: neither its system nor its bootloader answers.');
  if (listed.mode === 'bootloader' || listed.mode === 'userspace') return variablesText(link);
  const line = `${listed.serial ?? '?'}\t${listed.mode === 'system' ? 'device' : listed.mode}`;
  if (listed.mode !== 'system') return line;
  // asking for root itself would wait for somebody at its screen
  const { rootCommand } = await link.status();
  return `${line}\n${await link.properties()}${rootCommand ? '' : '\nsu: not found'}`;
}

/**
 * Answers to the questions of a case, out of a text that was pasted, or from the handset itself.
 * @throws {EternoError} `refused` for another handset's text, `bad-field` where it answers nothing, `link-lost`
 */
export async function readAnswers(
  handsetId: string,
  text: string | null,
  symptoms: readonly SymptomId[],
): Promise<readonly ReadAnswer[]> {
  const said = text ?? (await asked(handsetId));
  const { device } = (await knownFacts(handsetId)).typed;
  const { otherSerial, otherProduct } = whoseText(said, await readSecret(handsetId, 'serial'), device);
  if (otherSerial || otherProduct !== null)
    throw new EternoError('refused', 'This is another handset’s: nothing of it counts here.');
  const answers = aboutWhatShows(answersIn(said, await knownBefore(handsetId)), symptoms);
  if (answers.length === 0)
    throw new EternoError('bad-field', 'Nothing in it answers a question about what shows.');
  return answers;
}

export interface Closing extends CaseOf {
  readonly state: CaseState;
  readonly repair: RepairId | null;
  readonly rung: RungId | null;
  readonly cause: CauseId | null;
}
export interface Closed {
  /** How it is known to be back; null where nothing brought it back. */
  readonly by: BackBy | null;
  /** What may be marked, so that the next plan knows it. */
  readonly marks: readonly RescueMark[];
}

async function backBy({ handsetId, like }: CaseOf, fails: boolean): Promise<BackBy> {
  if (handsetId === null) return 'you';
  if (await isBackByRound(await keptCase({ handsetId, like }))) return 'round';
  const listed = await listedNow(await needHandset(handsetId), 0);
  return listed?.mode === 'system' || (listed !== null && !fails) ? 'link' : 'you';
}

/** One that was said not to start is not any more; what root it has is read next. */
async function startsAgain(handsetId: string): Promise<void> {
  const { root } = await readSubject(await needHandset(handsetId));
  if (root === 'broken') await tellRoot(handsetId, null, 'unknown', say.STARTS_AGAIN);
}

/**
 * Writes down what it was, and how it is known to be back: later cases weigh by it.
 * @throws {EternoError} `not-found`
 */
export async function closeCase({ state, repair, rung, cause, ...of }: Closing): Promise<Closed> {
  if (of.handsetId !== null) await needHandset(of.handsetId);
  const kept = await keptCase(of);
  const fails = state.symptoms.some((symptom) => NOT_STARTING.includes(symptom));
  const by = repair === null && rung === null ? null : await backBy(of, fails);
  await appendEvent({
    at: now(),
    handsetId: of.handsetId,
    roundId: kept?.round?.id ?? null,
    kind: 'rescue-closed',
    data: { version: 2, openedAt: kept?.openedAt ?? null, ...state, repair, rung, cause, by },
  });
  await dropSetting(keyOf(of));
  if (by !== null && of.handsetId !== null) await startsAgain(of.handsetId);
  return { by, marks: of.handsetId === null ? [] : await marksFor(of.handsetId, cause) };
}

/** Cases of a handset that were closed, the newest first. */
export const pastCases = async (handsetId: string): Promise<PastCase[]> =>
  (await eventsOf('rescue-closed', { handsetId }))
    .map(({ at, data: { openedAt = null, symptoms = [], repair = null, rung = null, cause, ...more } }) => ({
      at,
      minutes: openedAt === null ? null : Math.max(1, Math.round((at - openedAt) / 60_000)),
      symptoms,
      helped: { repair, rung },
      cause,
      asked: more.answers?.length ?? null,
      tried: more.tried ?? [],
    }))
    .sort((a, b) => b.at - a.at);

/** What cured a line in closed cases. */
export const linesCured = async (): Promise<Cure[]> =>
  (await eventsOf('rescue-closed')).flatMap(({ data: { rung, cable, host } }) =>
    rung ? [{ rung, cable: cable ?? null, host: host ?? null }] : [],
  );

const number = (fingerprint: string) => splitFingerprint(fingerprint)?.id ?? fingerprint;

/** The last way down that this handset went. */
async function wayDown({ handset }: KnownHandset): Promise<RescueMark | null> {
  const [round] = await listRounds(handset.id);
  if (round?.kind !== 'downgrade' || round.target === null) return null;
  const from = (await stepsOf([round.id]))[0]?.planned.build;
  return from ? { kind: 'way-down', from: number(from), to: number(round.target) } : null;
}

async function marksFor(handsetId: string, cause: CauseId | null): Promise<RescueMark[]> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  if (cause === 'module') return modulesOf(subject).map(({ id }) => ({ kind: 'module', module: id }));
  if (cause === 'kit') {
    const kit = kitOnIt(subject, bench, rootOf(subject, bench).partition);
    return kit ? [{ kind: 'kit', item: kitItem(kit) }] : [];
  }
  const down = cause === 'data' ? await wayDown(subject) : null;
  return down ? [down] : [];
}

const NOTE = 'named by a closed case of trouble';

/**
 * Marks what was to blame, for the next plan.
 * @throws {EternoError} `refused` for what can't be marked, of the notes themselves
 */
export async function markIt(handsetId: string, mark: RescueMark): Promise<void> {
  const { fingerprint } = (await knownFacts(handsetId)).typed;
  if (mark.kind === 'way-down')
    return noteEdge(handsetId, {
      fromBuild: mark.from,
      toBuild: mark.to,
      allowed: 'no',
      bootloader: null,
      note: `${NOTE}: its data did not open afterwards`,
    });
  if (fingerprint === null) throw new EternoError('refused', 'Which build it runs was never read.');
  const trial = { fingerprint, handsetId, outcome: 'looped', note: NOTE } as const;
  return mark.kind === 'kit'
    ? noteTrial({ shelf: 'kit', item: mark.item, ...trial })
    : noteModuleTrial({ module: mark.module, moduleVersion: null, ...trial });
}
