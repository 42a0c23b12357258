import type { RootSpan } from '@/core/schedule/continuity';
import { formatDay, formatSeconds } from '../format';
import { ROOT_WORDS, StateMark } from '../state-mark';

/** A continuity band as a table, newest first. */
export function SpanTable({ spans }: { readonly spans: readonly RootSpan[] }) {
  return (
    <table className="ledger">
      <tbody>
        {[...spans].reverse().map((span) => (
          <tr key={span.from}>
            <td style={{ width: 28 }}>
              <StateMark state={span.state} size={15} />
            </td>
            <td>{ROOT_WORDS[span.state]}</td>
            <td>{formatDay(span.from)}</td>
            <td>{formatDay(span.to)}</td>
            <td className="num">{formatSeconds((span.to - span.from) / 1000)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
