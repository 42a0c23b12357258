import type { Deed } from './deed';
import type { StepKey } from './step-key';
import { STEP_KINDS } from './step-table';

/* What each step does to the handset, out of its record, and every list over steps that follows from it. */

export const DEEDS = Object.fromEntries(
  Object.entries(STEP_KINDS).map(([key, { deed }]) => [key, deed]),
) as Readonly<Record<StepKey, Deed>>;

const keysWhere = (test: (deed: Deed) => boolean): readonly StepKey[] =>
  (Object.keys(DEEDS) as StepKey[]).filter((key) => test(DEEDS[key]));

/** Steps that have checks before them. */
export const GATED = keysWhere(({ gates }) => gates.length > 0);
export const DONE_HERE = keysWhere(({ here }) => here === true);
export const CHANGING = keysWhere(({ changes }) => changes);
export const LISTING = keysWhere(({ lists }) => lists === true);
export const ASKS_FOR_ROOT = keysWhere(({ asksForRoot }) => asksForRoot === true);
/** They write with a tool on the computer, over its cable. */
/** A whole build out of the vault, image by image. */
export const PARTS_WRITES = keysWhere(({ writes }) => writes?.parts !== undefined);
export const FROM_OUTSIDE = keysWhere(({ writes, gates }) => writes !== null && gates.includes('tool'));
/** They are about a recovery of the person's own. */
export const CUSTOM_RECOVERY = keysWhere(({ image }) => image?.what === 'own recovery');
export const STARTING = keysWhere(({ starts }) => starts === true);

/** The steps that undo what another one changed for a while; none where `kind` is a person's own note. */
export const undoneBy = (kind: string): readonly StepKey[] =>
  (Object.hasOwn(DEEDS, kind) ? DEEDS[kind as StepKey].opens?.closedBy : undefined) ?? [];
