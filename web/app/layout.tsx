import type { Metadata } from 'next';
import { cookies } from 'next/headers';
import type { ReactNode } from 'react';
import { preload } from 'react-dom';
import { API } from '@/client/api';
import { Providers } from '@/client/providers';
import { Shell } from '@/shell/shell';
import { appLayout as texts } from './texts';
import './globals.css';

// pages are made when they are asked for: each answer has a nonce of its own (proxy.ts)
export const dynamic = 'force-dynamic';
const early = (path: string): void => preload(path, { as: 'fetch', crossOrigin: 'anonymous' });
export const metadata: Metadata = { title: texts.velvetReel, description: texts.aSharedLibraryOf };

export default async function Layout({ children }: { children: ReactNode }) {
  // what every place asks for first is on its way while the scripts still load
  early('/api/session');
  if ((await cookies()).getAll().some(({ name }) => name.endsWith('session_token'))) early(`${API}/cast?bin=0`);
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers>
          <Shell>{children}</Shell>
        </Providers>
      </body>
    </html>
  );
}
