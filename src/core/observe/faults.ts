import type { FaultId } from '../words/observe';
import type { ObserveExpectation } from './expectation';

/*
 * Lines that say that something failed. A word counts only in a line that a tool or a recovery begins as an
 * error, or in one of the few sentences that are one by themselves: logs are full of errors that are none.
 */

type Rule = readonly [id: FaultId, when: RegExp];

/** Why, in the words of bootloaders, recoveries and tools; the first that is met counts. */
const REASONS: readonly Rule[] = [
  ['switch-off', /unlock\w*\s+(?:is\s+|ability\s+)?(?:not|isn.?t)\s+allowed|unlock ability|oem unlock/i],
  [
    'wrong-code',
    /\b(?:wrong|invalid|incorrect|bad)\s+(?:unlock\s+)?(?:code|token|key|password)|(?:code|token)\s+(?:is\s+)?(?:wrong|invalid|incorrect)/i,
  ],
  ['already', /\balready\b/i],
  [
    'refused-locked',
    /\block(?:ed)?[ -]?state|\b(?:is|are|device|bootloader) locked\b|\blocked (?:device|bootloader|state)|while locked|not allowed.*\block/i,
  ],
  [
    'refused-older',
    /\brollback\b|anti.?roll|\bolder\b|\bdowngrad|timestamp|lower than (?:the )?(?:current|stored|fuse)|below (?:the )?fuse/i,
  ],
  ['no-space', /no space|not enough (?:free )?space|insufficient (?:storage|space)|no room/i],
  [
    'refused-partition',
    /no such partition|unknown partition|invalid partition|partition\b.*(?:not found|doesn.?t exist|does not exist|unknown)|cannot find .*partition/i,
  ],
  ['too-large', /too (?:large|big)|exceeds|larger than|bigger than/i],
  ['refused-signature', /signature|verif(?:y|ication)\b|not signed|unsigned/i],
  ['busy', /\bbusy\b|try again later|another (?:update|operation|process)/i],
  [
    'no-permission',
    /no permissions?|insufficient permissions|unauthori[sz]ed|access (?:is )?denied|not authori[sz]ed/i,
  ],
  [
    'link-lost',
    /no such device|status read failed|(?:read|write) failed|connection (?:lost|reset|closed|failed)|\boffline\b|broken pipe|\bdisconnect|protocol fault|i\/o error|input\/output error|no link|timed? ?out|\bclosed\b/i,
  ],
  ['not-listed', /device\b.*not found|no devices?(?:\/\w+)? found|no devices?\b/i],
  [
    'no-file',
    /no such file|cannot (?:open|load|stat|read|find)|could not (?:open|load|stat|read)|can.?t (?:open|load|stat|read)/i,
  ],
];

/** Lines that are a fault by themselves. */
const SENTENCES: readonly Rule[] = [
  [
    'needs-wipe',
    /can.?t load (?:the )?\S+(?: system)?\.?\s+your data may be corrupt|data may be corrupt|(?:needs?|requires?|asks? for) (?:a )?(?:wipe|factory)/i,
  ],
  [
    'no-root',
    /^(?:\/\S+: )?(?:\S+: )*su: (?:inaccessible or )?(?:not found|no such file)|\bsu:? (?:command )?not found/i,
  ],
  ['root-denied', /(?:^|\/)su:.*(?:denied|not allowed|refused)|^permission denied$/i],
  ['not-listed', /^(?:[a-z]+: )?(?:no devices?(?:\/\w+)? found|device '[^']+' not found)/i],
  ['refused', /^installation (?:aborted|failed)|^install(?:ed|ation)? .*with status [1-9]/i],
];

/** The beginning of a line that says an error, after a tool's own name. */
const LEADS =
  /^(?:[\w./-]+: )?(?:error|fatal|failure|E)\s?:|^[a-z]+: (?:device|more than one|failed|cannot|unable|insufficient|unauthorized)\b|\bFAILED\b|^FAIL\b|^[\w./-]*\bdd: |^failed to /i;
const NOT_A_FAULT = /^(?:warning|note|info)\b/i;

/** Whether a tool says that a line is its error. */
export const isErrorLine = (text: string): boolean => LEADS.test(text) && !NOT_A_FAULT.test(text);

/** What “permission denied” is at each step; at others the computer may not use the handset. */
const DENIED: Readonly<Partial<Record<ObserveExpectation['step'], FaultId>>> = {
  push: 'push-failed',
  'prove-root': 'root-denied',
  'prove-stock': 'root-denied',
};
const LOOKS: readonly ObserveExpectation['step'][] = ['list', 'enter'];

/** What the step makes of a fault that was seen in it. */
function inStep(id: FaultId, text: string, { step, mode }: ObserveExpectation): FaultId {
  const looks = LOOKS.includes(step);
  if (/permission denied/i.test(text))
    return DENIED[step] ?? (mode === 'system' && !looks ? 'no-root' : 'no-permission');
  if (step === 'push' && (id === 'refused' || (id === 'no-file' && /remote|create/i.test(text))))
    return 'push-failed';
  return looks && id === 'link-lost' && /not found/i.test(text) ? 'not-listed' : id;
}

/** The fault that a line says; null where it says none. */
export function faultOf(text: string, expectation: ObserveExpectation): FaultId | null {
  if (NOT_A_FAULT.test(text)) return null;
  const sentence = SENTENCES.find(([, when]) => when.test(text));
  if (sentence) return sentence[0];
  if (!isErrorLine(text)) return null;
  const reason = REASONS.find(([, when]) => when.test(text));
  return inStep(reason?.[0] ?? 'refused', text, expectation);
}
