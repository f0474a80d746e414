import '@fontsource-variable/inter/wght.css';
import '@fontsource-variable/jetbrains-mono/wght.css';
import 'driver.js/dist/driver.css';
import './globals.css';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { Toaster } from 'sonner';
import { NONCE_HEADER } from '@/server/callers';

export const metadata: Metadata = {
  title: 'Bellows',
  description: 'Mould filling, packing, cooling and warpage of plastic parts',
};

/** Before the first paint, so that a dark page never flashes light. */
const THEME = `try{document.documentElement.dataset.theme=localStorage.getItem('bellows.theme')||(matchMedia('(prefers-color-scheme: dark)').matches?'dark':'light')}catch{}`;

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get(NONCE_HEADER) ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: THEME }} />
      </head>
      <body>
        {children}
        <Toaster
          position="bottom-right"
          toastOptions={{
            style: { background: 'var(--sheet)', color: 'var(--ink)', borderColor: 'var(--line)', fontSize: 13 },
          }}
        />
      </body>
    </html>
  );
}
