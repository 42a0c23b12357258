import { keyNames, secondsWords } from './speak';
import type { KeysWay, WayId, WayKind, WaySureness, WayValue } from './way-kinds';
import { WAYS } from './way-kinds';

/* A way's value, as it stands in a table. */

export const SURENESS_WORDS: Readonly<Record<WaySureness, string>> = {
  read: 'read on the handset',
  'seen done': 'seen done',
  'only said': 'only said',
  guessed: 'a guess of its class',
};

const keysWords = (way: KeysWay) =>
  `${keyNames(way).join(' + ')}, ${secondsWords(way.seconds)}${way.cable === true ? ', cable in' : ''}`;

/** Choices of a way as they are said; none where it is no choice. */
export const choicesOf = (id: WayId): Readonly<Record<string, string>> => (WAYS[id] as WayKind).choices ?? {};

export function valueWords(id: WayId, value: WayValue): string {
  switch (WAYS[id].form) {
    case 'keys':
      return keysWords(value as KeysWay);
    case 'choice':
      return choicesOf(id)[value as string] ?? (value as string);
    case 'list':
      return (value as readonly string[]).join(' · ');
    case 'text':
      return `“${value as string}”`;
  }
}
