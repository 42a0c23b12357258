'use client';
import { Button } from 'antd';
import type { AnsweredBy } from '@/contracts/rescue-view';
import { CHECK_WORDS, REPAIR_WORDS, RUNG_WORDS } from '@/core/words/rescue';
import styles from './rescue.module.css';
import type { Case } from './use-case';

const BY: Readonly<Record<AnsweredBy, string>> = {
  you: 'as you said',
  paste: 'read in what you pasted',
  link: 'read from the handset',
};

/** What was answered and done so far, and who says so; each answer can be taken back. */
export function Told({ now }: { readonly now: Case }) {
  if (now.answers.length + now.tried.length + now.rungs.length === 0) return null;
  return (
    <section aria-label="What is known so far" className={styles.told}>
      <h3>Known so far</h3>
      {now.answers.map(({ check, answer, by, saw }) => (
        <p key={check} className="small">
          <span>
            {CHECK_WORDS[check].asks}{' '}
            <b>
              {answer === null
                ? 'I can’t tell'
                : (CHECK_WORDS[check].answers as Readonly<Record<string, string>>)[answer]}
            </b>{' '}
            <span className="soft">
              {BY[by]}
              {saw === null ? '' : `: ${saw}`}
            </span>
          </span>
          <Button size="small" type="link" onClick={() => now.takeBack(check)}>
            Take it back
          </Button>
        </p>
      ))}
      {now.tried.map((repair) => (
        <p key={repair} className="small">
          <span>
            {REPAIR_WORDS[repair]}: <b>as before</b>
          </span>
        </p>
      ))}
      {now.rungs.map((rung) => (
        <p key={rung} className="small">
          <span>
            {RUNG_WORDS[rung]}: <b>still not listed</b>
          </span>
        </p>
      ))}
    </section>
  );
}
