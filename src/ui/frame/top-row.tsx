'use client';
import { AutoComplete, Input } from 'antd';
import type { InputRef } from 'antd';
import { Link } from '@/ui/link';
import { usePathname, useRouter } from 'next/navigation';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { FindTarget } from '@/contracts/find-target';
import { findTargets } from '../send';
import styles from './frame.module.css';
import { useKeys } from './keys';

const ROOMS = [
  ['Bench', '/'],
  ['Firmware', '/firmware'],
  ['Images', '/images'],
  ['Modules', '/modules'],
  ['Rescue', '/rescue'],
  ['Calendar', '/calendar'],
  ['Log', '/log'],
  ['Store', '/store'],
] as const;

/** Long enough that typing on asks once. */
const TYPING_MS = 120;

const TRY_IT = ['Try it', '/try'] as const;
const PRACTICE = ['Practice', '/practice'] as const;

export function TopRow({ demo, practice }: { readonly demo: boolean; readonly practice: boolean }) {
  const path = usePathname();
  const router = useRouter();
  const [text, setText] = useState('');
  const find = useRef<InputRef>(null);
  const own = /^\/handsets\/([0-9a-f-]{36})/.exec(path)?.[1];
  useKeys(
    useMemo(
      () => [
        { key: '/', does: 'find', run: () => find.current?.focus() },
        {
          key: '!',
          does: 'something is wrong',
          run: () => router.push(own === undefined ? '/rescue' : `/rescue?handset=${own}`),
        },
      ],
      [router, own],
    ),
  );
  const wanted = text.trim();
  const [found, setFound] = useState<{ readonly wanted: string; readonly targets: readonly FindTarget[] }>({
    wanted: '',
    targets: [],
  });
  // Enter before the answer is there goes to the first that is found
  const hurried = useRef<string | null>(null);
  const go = useCallback(
    (href: string) => {
      hurried.current = null;
      setText('');
      router.push(href);
    },
    [router],
  );
  const known = found.wanted === wanted ? found.targets : [];
  useEffect(() => {
    if (wanted === '') return;
    const stop = new AbortController();
    const wait = setTimeout(() => {
      findTargets(wanted, stop.signal).then(
        (targets) => {
          const [first] = targets;
          if (first && hurried.current === wanted) go(first.href);
          else setFound({ wanted, targets });
        },
        () => undefined,
      );
    }, TYPING_MS);
    return () => {
      clearTimeout(wait);
      stop.abort();
    };
  }, [wanted, go]);
  return (
    <header className={styles.top}>
      <Link href="/" className={styles.word}>
        <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
          <circle cx="10" cy="10" r="8.4" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
          <path d="M10 4.2 15.2 10 10 15.8 4.8 10Z" fill="var(--root)" />
        </svg>
        Eterno
      </Link>
      <nav className={styles.rooms} aria-label="Rooms">
        {[...ROOMS, ...(practice ? [] : [PRACTICE]), ...(demo ? [TRY_IT] : [])].map(([name, href]) => (
          <Link
            key={href}
            href={href}
            aria-current={(href === '/' ? path === '/' : path.startsWith(href)) ? 'page' : undefined}
          >
            {name}
          </Link>
        ))}
      </nav>
      <AutoComplete
        style={{ marginLeft: 'auto', width: 270 }}
        value={text}
        onChange={setText}
        onSelect={go}
        options={known.map((target) => ({ value: target.href, label: target.label }))}
        notFoundContent={wanted === '' || found.wanted !== wanted ? null : 'Nothing found'}
      >
        <Input
          ref={find}
          placeholder="Find a build, hash, handset"
          aria-label="Find a build, hash, handset"
          onPressEnter={() => {
            if (wanted !== '' && found.wanted !== wanted) hurried.current = wanted;
          }}
          suffix={<kbd className="small soft">/</kbd>}
        />
      </AutoComplete>
    </header>
  );
}
