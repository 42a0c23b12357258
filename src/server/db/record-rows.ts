import 'server-only';
import type { BackupKind } from '@/core/words/backups';
import type { WaySureness } from '@/core/ways/way-kinds';

/* Rows of the shelves and of what a person notes. */

export interface RecoveryRow {
  id: string;
  name: string;
  version: string;
  channel: 'stable' | 'preview' | 'unofficial';
  /** JSON list of code names. */
  devices: string;
  sdkFrom: number | null;
  sdkTo: number | null;
  /** The newest level whose storage it opens, as its image says it; null where it does not. */
  opensUpTo: number | null;
  /** Its image in the vault, where it is kept. */
  sha256: string | null;
  note: string;
  addedAt: number;
}

export interface TrialRow {
  id: string;
  shelf: 'kit' | 'recovery';
  /** `id version` of a kit, the row's id of a recovery. */
  item: string;
  fingerprint: string;
  handsetId: string | null;
  roundId: string | null;
  outcome: 'worked' | 'looped' | 'misbehaved';
  note: string;
  at: number;
}

export interface BackupRow {
  id: string;
  handsetId: string;
  what: BackupKind;
  place: 'off the handset' | 'on the handset';
  note: string;
  at: number;
  /** JSON list of what was said to be in it; null where nobody was asked. */
  parts: string | null;
}

export interface ClockRow {
  id: string;
  handsetId: string;
  kind: 'unlock switch' | 'mailed code' | 'return window' | 'tester enrolment';
  endsAt: number;
  note: string;
  doneAt: number | null;
}

export interface DependencyRow {
  id: string;
  handsetId: string;
  name: string;
  effect: 'stops' | 'keeps working' | 'unknown';
  needed: 'yes' | 'no';
  note: string;
  at: number;
}

export interface DowngradeEdgeRow {
  id: string;
  device: string;
  fromBuild: string;
  toBuild: string;
  allowed: 'yes' | 'no';
  /** Highest bootloader level with which it went through; null where any will do. */
  bootloader: number | null;
  note: string;
  at: number;
}

export interface ModelWayRow {
  id: string;
  /** Code name, or what the person calls the model. */
  model: string;
  way: string;
  /** JSON of the value. */
  value: string;
  sureness: WaySureness;
  source: string;
  at: number;
}
