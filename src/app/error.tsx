'use client';

import { useEffect } from 'react';

/** Shown when a page fails to draw. Nothing is lost: every change is saved as it is made. */
export default function PageError({ error, reset }: { error: Error; reset: () => void }) {
  useEffect(() => console.error(error), [error]);
  return (
    <main className="mx-auto max-w-md pt-32 text-center">
      <h1 className="text-xl font-semibold">The page stopped drawing.</h1>
      <p className="text-soft mt-2">Your study is saved. The cause was: {error.message}</p>
      <button type="button" onClick={reset} className="text-petrol mt-4 underline">
        Draw it again
      </button>
    </main>
  );
}
