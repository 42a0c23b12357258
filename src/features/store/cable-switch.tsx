'use client';
import { Switch } from 'antd';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { switchCableAction } from './actions';

/** Whether pages of this browser may work on a real handset over its cable; off until somebody reads this. */
export function CableSwitch({ on }: { readonly on: boolean }) {
  const { act, busy, error, dismiss } = useAct();
  return (
    <section aria-label="The browser’s cable" style={{ marginTop: 22 }}>
      <h2>The browser’s cable</h2>
      <p>
        <Switch
          checked={on}
          disabled={busy}
          aria-label="Let pages use the cable of this computer"
          onChange={(wanted) => act(() => switchCableAction(wanted))}
        />{' '}
        <b>{on ? 'On: ' : 'Off: '}</b>
        {on
          ? 'a round by hand offers its bootloader’s steps over the cable, and asks once for each handset.'
          : 'steps of a real handset are done by hand, with your own tools.'}
      </p>
      <p className="soft">
        Switched on, a page sends what you would send with a tool: it reads the bootloader, writes images,
        selects a slot and restarts. Every check of the round stands before it, and the serial is compared
        first. Only for handsets of your own. It was not tried with every maker. A write that is cut short, by
        the cable, an empty battery, sleep, or by closing the page, leaves the partition unknown until it is
        written again. What runs on the handset stays in your hands.
      </p>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
}
