/**
 * What this person sent by hand and can still take back: seen on every page for as long as it waits. What each of them is restored
 * to is kept in this browser, so that a reload in these seconds loses nothing.
 */
import { toast } from 'sonner';
import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { contract } from '@zest-bell/core/contract';
import type { SendingAnswer } from '@zest-bell/core/exchange';
import { ask, errorWords } from './api.ts';
import { withdrawnWords } from './decisionWords.ts';
import { queryClient, refreshAll } from './queries.ts';
import { keepDrafts } from './useKept.ts';

/** Typed text goes back under the key of its draft, and the page where it was typed is opened again. */
export interface Restore {
  readonly path: string;
  readonly drafts: Readonly<Record<string, unknown>>;
}

interface WaitingSending extends Omit<SendingAnswer, 'left'> {
  /** By this browser's clock. */
  readonly until: number;
}

interface Sendings {
  readonly waiting: readonly WaitingSending[];
  readonly restores: Readonly<Record<number, Restore>>;
}

export const useSendings = create<Sendings>()(
  persist((): Sendings => ({ waiting: [], restores: {} }), {
    name: 'zest-bell-sendings',
    version: 1,
    partialize: ({ restores }) => ({ restores }) as Sendings,
  }),
);

const getState = () => useSendings.getState();
const setState = (part: Partial<Sendings>) => useSendings.setState(part);

/** Takes in what a request set off; null where it left at once. Returns whether it waits. */
export function track(sending: SendingAnswer | null, restore: Restore | null = null): boolean {
  if (sending === null) return false;
  const { left, ...rest } = sending;
  const { waiting, restores } = getState();
  setState({
    waiting: [...waiting.filter((w) => w.id !== sending.id), { ...rest, until: Date.now() + left }],
    restores: restore === null ? restores : { ...restores, [sending.id]: restore },
  });
  return true;
}

/** After a reload: what still waits on the server. */
export async function loadSendings(): Promise<void> {
  for (const sending of await ask(contract.mail.sendings)) track(sending);
}

function drop(id: number): void {
  const { waiting, restores } = getState();
  const { [id]: _gone, ...others } = restores;
  setState({ waiting: waiting.filter((w) => w.id !== id), restores: others });
}

/** Takes it back: the text is where it was typed. Gives the page to open, or null to stay. */
export async function undoSending(id: number): Promise<string | null> {
  try {
    await ask(contract.mail.undoSending, { sending: id });
    const restore = getState().restores[id] ?? null;
    keepDrafts(restore?.drafts ?? {});
    drop(id);
    await refreshAll();
    toast('Taken back. Nothing was sent.');
    return restore?.path ?? null;
  } catch (error) {
    toast.error(errorWords(error));
    await settle(id);
    return null;
  }
}

export async function sendAtOnce(id: number): Promise<void> {
  try {
    await ask(contract.mail.sendNow, { sending: id });
  } catch (error) {
    toast.error(errorWords(error));
  }
  await settle(id);
}

/** The wait is over: what became of it is asked, so that nothing canceled at its second look goes unnoticed. */
export async function settle(id: number): Promise<void> {
  drop(id);
  try {
    const { canceled } = await ask(contract.mail.sending, { sending: id });
    if (canceled.length > 0)
      toast(`Not sent: ${canceled.map((c) => `${c.name}, ${withdrawnWords(c.reason as never)}`).join('; ')}.`, {
        duration: 12_000,
      });
  } catch {
    // Taken back elsewhere, or long gone: there is nothing to tell.
  }
  await queryClient.invalidateQueries();
}
