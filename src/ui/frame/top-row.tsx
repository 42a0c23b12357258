'use client';
import { AutoComplete, Input } from 'antd';
import type { InputRef } from 'antd';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useMemo, useRef, useState } from 'react';
import styles from './frame.module.css';
import { useKeys } from './keys';

export interface FindTarget {
  readonly label: string;
  readonly text: string;
  readonly href: string;
}

const ROOMS = [
  ['Bench', '/'],
  ['Firmware', '/firmware'],
  ['Images', '/images'],
  ['Modules', '/modules'],
  ['Calendar', '/calendar'],
  ['Log', '/log'],
  ['Store', '/store'],
] as const;

export function TopRow({ targets }: { targets: readonly FindTarget[] }) {
  const path = usePathname();
  const router = useRouter();
  const [text, setText] = useState('');
  const find = useRef<InputRef>(null);
  useKeys(useMemo(() => [{ key: '/', does: 'find', run: () => find.current?.focus() }], []));
  const wanted = text.trim().toLowerCase();
  const found = wanted === '' ? [] : targets.filter((target) => target.text.toLowerCase().includes(wanted)).slice(0, 8);
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
        {ROOMS.map(([name, href]) => (
          <Link key={href} href={href} aria-current={(href === '/' ? path === '/' : path.startsWith(href)) ? 'page' : undefined}>
            {name}
          </Link>
        ))}
      </nav>
      <AutoComplete
        style={{ marginLeft: 'auto', width: 270 }}
        value={text}
        onChange={setText}
        onSelect={(href: string) => {
          setText('');
          router.push(href);
        }}
        options={found.map((target) => ({ value: target.href, label: target.label }))}
        notFoundContent={wanted === '' ? null : 'Nothing found'}
      >
        <Input
          ref={find}
          placeholder="Find a build, hash, handset"
          aria-label="Find a build, hash, handset"
          suffix={<kbd className="small soft">/</kbd>}
        />
      </AutoComplete>
    </header>
  );
}
