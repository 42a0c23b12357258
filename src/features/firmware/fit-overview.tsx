import type { HandsetFit } from '@/contracts/firmware-view';
import { fitWords } from '@/core/words/fit';
import ui from '@/ui/ui.module.css';
import { fitTone } from '@/ui/fit-tone';
import styles from './firmware.module.css';
import { byCloseness } from './verdict-words';

interface Props {
  readonly fits: readonly HandsetFit[];
  readonly chosen: string | null;
  readonly onChoose: (handsetId: string) => void;
}

/** Every handset at once, the closest first; one of them is shown fact by fact below. */
export function FitOverview({ fits, chosen, onChoose }: Props) {
  return (
    <table className={`ledger ${styles.overview}`} aria-label="How it fits each handset">
      <tbody>
        {byCloseness(fits).map(({ handsetId, name, fit }) => (
          <tr key={handsetId} data-chosen={handsetId === chosen}>
            <td style={{ width: 210 }}>
              <button
                type="button"
                className={ui.pick}
                aria-pressed={handsetId === chosen}
                onClick={() => onChoose(handsetId)}
              >
                {name}
              </button>
            </td>
            <td style={{ width: 130 }} className={fitTone(fit.verdict)}>
              <b>{fit.verdict}</b>
            </td>
            <td className="small">{fitWords(fit.reason)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
