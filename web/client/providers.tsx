'use client';

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { NuqsAdapter } from 'nuqs/adapters/next/app';
import { Tooltip } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Toaster } from 'sonner';
import { DocumentsProvider } from '@/documents/use-document';
import { ApiError } from './api';
import { SessionGate } from './session';

export function Providers({ children }: { children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          queries: {
            staleTime: 10_000,
            retry: (n, error) => n < 2 && !(error instanceof ApiError && error.status >= 400 && error.status < 500),
          },
        },
      }),
  );
  return (
    <QueryClientProvider client={client}>
      <NuqsAdapter>
        <Tooltip.Provider delayDuration={350}>
          <SessionGate>
            <DocumentsProvider>{children}</DocumentsProvider>
          </SessionGate>
          <Toaster
            position="bottom-right"
            offset={{ bottom: 84, right: 20 }}
            toastOptions={{
              style: {
                background: 'var(--raised)',
                color: 'var(--ink)',
                border: '1px solid var(--line)',
                fontFamily: 'var(--font-sans)',
              },
            }}
          />
        </Tooltip.Provider>
      </NuqsAdapter>
    </QueryClientProvider>
  );
}
