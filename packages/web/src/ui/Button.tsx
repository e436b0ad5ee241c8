import type { ButtonHTMLAttributes } from 'react';
import { useAllowed } from './Allowed.tsx';

type Look = 'main' | 'plain' | 'quiet' | 'dark' | 'zest';

const LOOKS: Readonly<Record<Look, string>> = {
  main: 'bg-pine text-on-pine font-bold hover:brightness-110',
  plain: 'bg-sheet text-ink border border-line-strong font-semibold hover:border-ink',
  quiet: 'text-pine font-semibold hover:underline underline-offset-4 px-1!',
  zest: 'bg-zest text-[#14211d] font-bold hover:brightness-95',
  dark: 'bg-white/10 text-white font-semibold hover:bg-white/20',
};

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  readonly look?: Look;
  readonly busy?: boolean;
  /** Not shown to whoever may not do this here. */
  readonly needs?: string;
}

export function Button({ look = 'plain', busy = false, needs, className = '', children, ...rest }: ButtonProps) {
  const allows = useAllowed();
  if (needs !== undefined && !allows(needs)) return null;
  return (
    <button
      type="button"
      {...rest}
      aria-busy={busy || undefined}
      aria-disabled={busy || rest['aria-disabled']}
      onClick={busy ? undefined : rest.onClick}
      className={`inline-flex min-h-9 items-center justify-center gap-2 rounded-[11px] px-4 text-[15px] whitespace-nowrap transition disabled:opacity-55 ${LOOKS[look]} ${className}`}
    >
      {busy && (
        <span aria-hidden className="size-3.5 animate-spin rounded-full border-2 border-current border-t-transparent" />
      )}
      {children}
    </button>
  );
}
