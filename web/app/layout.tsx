import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { Providers } from '@/client/providers';
import { Shell } from '@/shell/shell';
import './globals.css';

// pages are made when they are asked for: each answer has a nonce of its own (proxy.ts)
export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Velvet Reel', description: 'A shared library of character motion.' };

export default function Layout({ children }: { children: ReactNode }) {
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
