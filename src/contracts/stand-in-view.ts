import type { ScreenModel } from '@/core/handset/screen';
import type { HandsetState } from '@/core/handset/state';

export interface StandInView {
  readonly profile: {
    readonly id: string;
    readonly product: string;
    readonly model: string;
    readonly serial: string;
    readonly rootPartition: string;
  };
  readonly state: HandsetState;
  readonly screen: ScreenModel;
}

/** `null` view: no stand-in answers. */
export interface StandInMessage {
  readonly view: StandInView | null;
}
