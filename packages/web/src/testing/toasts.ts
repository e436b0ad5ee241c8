/** What the page has said in passing. */
import { toast } from 'sonner';

interface ShownToast {
  readonly title: string;
  readonly description: string | undefined;
  /** Presses its button, and waits until what it set off has been asked. */
  press(): Promise<void>;
}

export function lastToast(): ShownToast {
  const said = toast.getHistory().at(-1) as {
    title?: string;
    description?: string;
    action?: { onClick: (e?: unknown) => void };
  };
  return {
    title: said.title ?? '',
    description: said.description,
    async press() {
      said.action?.onClick();
      for (let i = 0; i < 20; i++) await new Promise((resolve) => setTimeout(resolve, 0));
    },
  };
}
