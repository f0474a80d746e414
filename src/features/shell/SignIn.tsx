'use client';

import { useRef, useState } from 'react';
import { api, type ApiError } from '../study/api';
import { Button } from '../ui/controls';
import { BellowsMark } from './BellowsMark';

/** Asks for the passphrase, then leads to where the visitor was going. */
export function SignIn({ to }: { to: string }) {
  const [passphrase, setPassphrase] = useState('');
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState('');
  const field = useRef<HTMLInputElement>(null);
  const open = async () => {
    setBusy(true);
    try {
      await api.signIn(passphrase);
      window.location.assign(to);
    } catch (error) {
      const { message, remedy } = error as ApiError;
      setRefusal(`${message} ${remedy ?? ''}`);
      setPassphrase('');
      setBusy(false);
      field.current?.focus();
    }
  };
  return (
    <main className="mx-auto flex min-h-screen max-w-sm flex-col justify-center px-6 pb-24">
      <BellowsMark size={44} />
      <h1 className="mt-4 text-2xl font-semibold tracking-tight">Bellows</h1>
      <form
        className="mt-6"
        onSubmit={(e) => {
          e.preventDefault();
          void open();
        }}
      >
        <label htmlFor="passphrase" className="font-medium">
          Passphrase
        </label>
        <div className="mt-2 flex gap-2">
          <input
            id="passphrase"
            ref={field}
            type="password"
            autoFocus
            autoComplete="current-password"
            maxLength={1000}
            aria-invalid={refusal !== ''}
            aria-describedby="passphrase-note"
            value={passphrase}
            onChange={(e) => setPassphrase(e.target.value)}
            className="bg-sheet h-9 min-w-0 flex-1 rounded border px-2.5"
          />
          <Button look="primary" type="submit" className="h-9" disabled={busy || !passphrase}>
            {busy ? 'Opening' : 'Open'}
          </Button>
        </div>
        <p id="passphrase-note" role="status" className={`mt-3 text-[13px] ${refusal ? 'text-problem' : 'text-soft'}`}>
          {refusal || 'Set on the machine of the server, with “bellows passphrase”.'}
        </p>
      </form>
    </main>
  );
}
