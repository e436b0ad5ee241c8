/** “Sending 4 messages in 8 s · Undo”: at the foot of every page, where it covers nothing. */
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { SendingKind } from '@zest-bell/core/exchange';
import { Button } from '../ui/Button.tsx';
import { loadSendings, sendAtOnce, settle, undoSending, useSendings } from '../lib/sendings.ts';

const VERB: Readonly<Record<SendingKind, string>> = {
  write: 'Sending',
  answer: 'Sending',
  tray: 'Sending',
  letThrough: 'Sending',
  ring: 'Check now: sending',
};

export function SendingBar() {
  const waiting = useSendings((s) => s.waiting);
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    void loadSendings().catch(() => undefined);
  }, []);
  const any = waiting.length > 0;
  useEffect(() => {
    if (!any) return;
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, [any]);
  useEffect(() => {
    for (const w of waiting) if (w.until + 300 <= now) void settle(w.id);
  }, [waiting, now]);
  if (!any) return null;
  return (
    <div role="region" aria-label="On its way" className="border-t border-line bg-ink text-fog" data-testid="sending">
      {waiting.map((w) => (
        <Sending
          key={w.id}
          id={w.id}
          words={`${VERB[w.kind]} ${w.words}`}
          seconds={Math.max(0, Math.ceil((w.until - now) / 1000))}
        />
      ))}
    </div>
  );
}

function Sending({ id, words, seconds }: { readonly id: number; readonly words: string; readonly seconds: number }) {
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const act = async (work: () => Promise<string | null | void>) => {
    setBusy(true);
    const path = await work();
    setBusy(false);
    if (path) await navigate(path);
  };
  return (
    <p className="flex flex-wrap items-center gap-x-4 gap-y-1 px-5 py-2 text-[15px]">
      <span role="status" className="min-w-0">
        <strong>{words}</strong>
      </span>
      <span className="font-num text-[14px]" aria-hidden>
        {seconds > 0 ? `in ${seconds} s` : 'now'}
      </span>
      <Button look="zest" busy={busy} disabled={seconds === 0} onClick={() => act(() => undoSending(id))}>
        Undo
      </Button>
      <button
        type="button"
        disabled={busy || seconds === 0}
        className="font-semibold underline underline-offset-4 disabled:opacity-60"
        onClick={() => void act(() => sendAtOnce(id))}
      >
        Send now
      </button>
    </p>
  );
}
