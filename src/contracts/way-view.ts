import type { WayForm, WayGroup, WayId, WaySureness, WayValue } from '@/core/ways/way-kinds';

/** One line of a model's sheet. */
export interface WayView {
  readonly id: WayId;
  readonly group: WayGroup;
  readonly label: string;
  readonly form: WayForm;
  /** Null where nobody has said it, and its class has no guess. */
  readonly value: WayValue | null;
  readonly sureness: WaySureness | null;
  readonly source: string | null;
  /** UTC milliseconds. */
  readonly at: number | null;
}

export interface SheetView {
  readonly model: string;
  /** Null where too little was read to tell its class. */
  readonly handsetClass: string | null;
  readonly ways: readonly WayView[];
}
