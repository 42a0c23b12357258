/* Two sources that contradict each other about a fact, as a person reads it. */

export type Witness = 'system' | 'bootloader' | 'image' | 'person';

export const SPEAKERS: Readonly<Record<Witness, string>> = {
  system: 'the running system',
  bootloader: 'the bootloader',
  image: 'the image itself',
  person: 'you',
};

interface Said {
  readonly witness: Witness;
  readonly value: string;
}

export interface Dispute {
  /** Key of the fact, and its name on screen. */
  readonly key: string;
  readonly fact: string;
  /** What counts for now. */
  readonly first: Said;
  readonly other: Said;
}

const said = ({ witness, value }: Said) =>
  `${SPEAKERS[witness]} ${witness === 'person' ? 'said' : 'says'} ${value}`;

export const disputeWords = ({ fact, first, other }: Dispute): string =>
  `${fact}: ${said(first)}, ${said(other)}.`;
