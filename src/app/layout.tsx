import { AntdRegistry } from '@ant-design/nextjs-registry';
import '@fontsource-variable/atkinson-hyperlegible-mono';
import '@fontsource-variable/atkinson-hyperlegible-next';
import type { Metadata } from 'next';
import { cookies } from 'next/headers';
import type { ReactNode } from 'react';
import { frameView } from '@/server/services/frame-service';
import { Frame } from '@/ui/frame/frame';
import '@/ui/tokens.css';

export const metadata: Metadata = {
  title: 'Eterno',
  description: 'Keeps your own handsets rooted through every update.',
};
export const dynamic = 'force-dynamic';

export default async function RootLayout({ children }: { children: ReactNode }) {
  const look = (await cookies()).get('eterno-look')?.value === 'dark' ? 'dark' : 'light';
  const { now, since, handsets, dues, nextDueAt, vault, demo, practice } = await frameView();
  return (
    <html lang="en" data-look={look}>
      <body>
        <AntdRegistry>
          <Frame
            look={look}
            since={since}
            handsets={handsets}
            vault={vault}
            demo={demo}
            practice={practice}
            dues={dues}
            dueInMs={nextDueAt === null ? null : Math.max(0, nextDueAt - now)}
          >
            {children}
          </Frame>
        </AntdRegistry>
      </body>
    </html>
  );
}
