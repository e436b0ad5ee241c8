import { useRef, type ReactNode } from 'react';
import { Dialog as Radix } from 'radix-ui';
import { X } from 'lucide-react';
import { keepForList, waitsForFinger } from './combobox.ts';

const FIRST_FIELD = [
  'input:not([type=radio], [type=checkbox], [type=file]):enabled',
  'textarea:enabled',
  'select:enabled',
  '[contenteditable=true]',
]
  .map((field) => `[data-body] ${field}`)
  .join(',');

/** What had the focus; of an entry of a menu, which is gone by the time a dialog closes, what opened the menu. */
function opener(active: Element | null): Element | null {
  const menu = active?.closest('[role=menu]');
  return menu ? document.getElementById(menu.getAttribute('aria-labelledby') ?? '') : active;
}

export function Dialog(props: {
  readonly open: boolean;
  readonly onClose: () => void;
  readonly title: string;
  readonly note?: ReactNode;
  readonly wide?: boolean;
  readonly children: ReactNode;
  readonly foot?: ReactNode;
}) {
  // Opened by no trigger of its own, it gives the focus back to what had it.
  const before = useRef<Element | null>(null);
  return (
    <Radix.Root open={props.open} onOpenChange={(open) => !open && props.onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-[#0a100d]/55" />
        <Radix.Content
          aria-describedby={undefined}
          onEscapeKeyDown={keepForList}
          onOpenAutoFocus={(e) => {
            before.current = opener(document.activeElement);
            // What is to be typed comes first; without that, the dialog itself is read, and not its “Close”.
            e.preventDefault();
            const content = e.currentTarget as HTMLElement;
            const field = content.querySelector<HTMLElement>(FIRST_FIELD);
            (waitsForFinger(field) ? content : (field ?? content)).focus();
          }}
          onCloseAutoFocus={(e) => {
            if (!(before.current instanceof HTMLElement) || !before.current.isConnected) return;
            e.preventDefault();
            before.current.focus();
          }}
          className={`pop fixed top-1/2 left-1/2 z-50 flex max-h-[calc(100dvh-32px)] w-[calc(100vw-32px)] -translate-x-1/2 -translate-y-1/2 flex-col overflow-clip focus:outline-none ${props.wide ? 'max-w-[1080px]' : 'max-w-[560px]'}`}
        >
          <header className="border-b border-line py-4 pr-16 pl-6">
            <div className="min-w-0">
              <Radix.Title className="text-xl font-bold">{props.title}</Radix.Title>
              {props.note && <div className="mt-0.5 text-[14px] text-ink-2">{props.note}</div>}
            </div>
          </header>
          <div data-body className="min-h-0 flex-1 overflow-auto">
            {props.children}
          </div>
          {props.foot && (
            <footer className="flex flex-wrap items-center gap-3 border-t border-line px-6 py-4">{props.foot}</footer>
          )}
          {/* Behind everything else for keys: what the dialog is about comes first. */}
          <Radix.Close
            aria-label="Close"
            className="absolute top-4 right-6 grid size-8 place-items-center rounded-lg hover:bg-fog"
          >
            <X size={18} aria-hidden />
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
