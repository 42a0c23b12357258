'use client';
import { Button } from 'antd';
import { Link } from '@/ui/link';
import type { PlainDocument } from '@/core/rounds/documents';
import styles from './round.module.css';

/** A document on paper: the frame around it is not printed. */
export function PrintPage({
  document,
  roundId,
  page,
}: {
  readonly document: PlainDocument;
  readonly roundId: string;
  readonly page: string;
}) {
  return (
    <article className={styles.paper}>
      <div className={styles.notOnPaper}>
        <Link href={`/rounds/${roundId}`}>Back to the round</Link>
        <a href={`/api/rounds/${roundId}/pages/${page}`}>As a Markdown file</a>
        {page === 'rescue' ? <a href={`/api/rounds/${roundId}/rescue`}>With its files, as one ZIP</a> : null}
        <Button type="primary" onClick={() => window.print()}>
          Print it
        </Button>
      </div>
      <h1>{document.title}</h1>
      {document.about.map((line) => (
        <p key={line} className="soft">
          {line}
        </p>
      ))}
      {document.sections.map(({ heading, lines, steps, commands, table }) => (
        <section key={heading}>
          <h2>{heading}</h2>
          {lines ? (
            <ul>
              {lines.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          ) : null}
          {steps ? (
            <ol>
              {steps.map((step) => (
                <li key={step}>{step}</li>
              ))}
            </ol>
          ) : null}
          {commands?.map(({ what, command }) => (
            <div key={what}>
              <p>{what}:</p>
              <pre className={styles.paperCommand}>{command}</pre>
            </div>
          ))}
          {table ? (
            <table className="ledger">
              <thead>
                <tr>
                  {table.head.map((cell) => (
                    <th key={cell}>{cell}</th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {table.rows.map((row, i) => (
                  <tr key={i}>
                    {row.map((cell, j) => (
                      <td
                        key={j}
                        className={/^[0-9a-f]{64}$/.test(cell) ? 'mono small' : ''}
                        style={{ overflowWrap: 'anywhere' }}
                      >
                        {cell}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          ) : null}
        </section>
      ))}
    </article>
  );
}
