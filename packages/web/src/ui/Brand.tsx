export function Brand() {
  return (
    <span className="flex items-center gap-2 font-head text-lg font-bold whitespace-nowrap">
      <svg viewBox="0 0 24 24" className="size-6" aria-hidden>
        <path
          className="fill-pine"
          d="M12 2.5a1.4 1.4 0 0 1 1.4 1.4v.5c3 .6 5 3.2 5 6.3 0 3.6.9 5.2 2 6.3.5.5.1 1.3-.6 1.3H4.2c-.7 0-1.1-.8-.6-1.3 1.1-1.1 2-2.7 2-6.3 0-3.1 2-5.7 5-6.3v-.5A1.4 1.4 0 0 1 12 2.5z"
        />
        <circle cx="12" cy="20.3" r="1.9" fill="none" className="stroke-[#8bb000] dark:stroke-zest" strokeWidth="1.6" />
      </svg>
      <span className="max-[759px]:sr-only">Zest Bell</span>
    </span>
  );
}
