/** Signing in, over whatever stands on the page, so that nothing on it is lost. */
import { useEffect, useState, type FormEvent } from 'react';
import { create } from 'zustand';
import { api, sentenceOf, whenSignInIsAsked } from '../api/client.ts';
import { loadShop } from '../api/shop.ts';
import { Button } from '../ui/button.tsx';
import { Notice } from '../ui/card.tsx';
import { Mark } from '../ui/mark.tsx';

interface Access {
  /** Is a passphrase asked for in this shop? */
  asked: boolean;
  open: boolean;
  /** How often somebody has signed in on this page: what could not be loaded before is loaded then. */
  entered: number;
}

export const useAccess = create<Access>(() => ({ asked: false, open: false, entered: 0 }));
whenSignInIsAsked(() => useAccess.setState({ asked: true, open: true }));

export async function signOut(): Promise<void> {
  await api.signOut();
  useAccess.setState({ open: true });
}

export function SignIn() {
  const { open } = useAccess();
  const [passphrase, setPassphrase] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    // whether it is asked here is not known while the server is away; the first refused request tells
    api
      .access()
      .then(({ asked, signedIn }) => useAccess.setState({ asked, open: asked && !signedIn }))
      .catch(() => useAccess.setState({ asked: false }));
  }, []);
  if (!open) return null;
  const enter = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    try {
      await api.signIn(passphrase);
      setPassphrase('');
      setProblem(undefined);
      useAccess.setState(({ entered }) => ({ open: false, entered: entered + 1 }));
      await loadShop();
    } catch (error) {
      setProblem(sentenceOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="fixed inset-0 z-[60] flex items-center justify-center bg-desk" role="dialog" aria-modal aria-label="Sign in">
      <form className="panel flex w-[360px] flex-col gap-3 p-6 [--cut:16px]" onSubmit={(event) => void enter(event)}>
        <h1 className="flex items-center gap-2.5 text-xl font-semibold">
          <Mark /> Sign in
        </h1>
        <label className="flex flex-col gap-1">
          <span className="rule-label">Passphrase of the shop</span>
          <input
            type="password"
            autoComplete="current-password"
            autoFocus
            value={passphrase}
            onChange={(event) => setPassphrase(event.target.value)}
            className="h-9 border border-line-strong bg-sheet px-2"
          />
        </label>
        {problem ? <Notice level="stop">{problem}</Notice> : null}
        <Button type="submit" look="main" disabled={busy || passphrase === ''}>
          {busy ? 'Looking…' : 'Sign in'}
        </Button>
        <p className="text-[13px] text-ink-soft">Whoever set up the server knows it. What was open on this page is still there.</p>
      </form>
    </div>
  );
}
