import { useEffect, useRef, useState, type ButtonHTMLAttributes, type MouseEvent } from 'react';
import { Link, type LinkProps } from 'react-router';
import { useAllowed } from './Allowed.tsx';

type ButtonLook = 'main' | 'plain' | 'quiet' | 'dark' | 'zest';

const SHAPE =
  'inline-flex min-h-8 items-center pointer-coarse:min-h-11 justify-center gap-2 rounded-[9px] px-3.5 text-[14.5px] whitespace-nowrap print:hidden transition-[color,background-color,border-color,filter]';
const LOOKS: Readonly<Record<ButtonLook, string>> = {
  main: 'bg-pine text-on-pine font-bold hover:brightness-110',
  plain:
    'bg-sheet text-ink border border-line-strong font-semibold hover:border-ink aria-pressed:border-ink aria-pressed:bg-fog',
  // Its words, not its edge, line up with what is above and below.
  quiet: 'text-pine font-semibold hover:bg-ink/6 -mx-2 px-2!',
  zest: 'bg-zest text-[#14211d] font-bold hover:brightness-95',
  dark: 'bg-white/10 text-white font-semibold hover:bg-white/20',
};

export interface ButtonProps extends Omit<ButtonHTMLAttributes<HTMLButtonElement>, 'onClick'> {
  readonly look?: ButtonLook;
  /** With a promise the button cannot be pressed again until it is settled, and soon looks busy. */
  readonly onClick?: ((event: MouseEvent<HTMLButtonElement>) => unknown) | undefined;
  readonly busy?: boolean;
  /** Not shown to anyone who may not do this here. */
  readonly needs?: string;
}

/** An answer that takes longer than this, in ms, is waited for in sight. */
const SHOWN_AFTER = 300;

export function Button({
  look = 'plain',
  busy: isTold = false,
  needs,
  className = '',
  children,
  onClick,
  ...rest
}: ButtonProps) {
  const allows = useAllowed();
  const { isShown, press } = useAnswer(onClick);
  const busy = isTold || isShown;
  if (needs !== undefined && !allows(needs)) return null;
  return (
    <button
      type="button"
      {...rest}
      aria-busy={busy || undefined}
      aria-disabled={busy || rest['aria-disabled']}
      onClick={busy ? undefined : press}
      className={`${SHAPE} disabled:opacity-55 ${LOOKS[look]} ${className}`}
    >
      {busy && (
        <span aria-hidden className="size-3.5 animate-spin rounded-full border-2 border-current border-t-transparent" />
      )}
      {children}
    </button>
  );
}

/** A link that does what a button beside it does: it leads on with the task. */
export const LinkButton = ({ look = 'plain', className = '', ...link }: LinkProps & { readonly look?: ButtonLook }) => (
  <Link {...link} className={`${SHAPE} ${LOOKS[look]} ${className}`} />
);

/** Presses one by one: none while the answer to the last is awaited. */
function useAnswer(onClick: ButtonProps['onClick']) {
  const [isShown, setShown] = useState(false);
  const isAwaited = useRef(false);
  const late = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(late.current), []);
  const press = (event: MouseEvent<HTMLButtonElement>) => {
    if (isAwaited.current) return;
    const answer = onClick?.(event);
    if (!(answer instanceof Promise)) return;
    isAwaited.current = true;
    late.current = setTimeout(() => setShown(true), SHOWN_AFTER);
    void answer.finally(() => {
      isAwaited.current = false;
      clearTimeout(late.current);
      setShown(false);
    });
  };
  return { isShown, press };
}
