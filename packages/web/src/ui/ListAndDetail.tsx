/** A list beside what was chosen in it: each scrolls on its own where there is room for both. */
import type { ReactNode } from 'react';

export function ListAndDetail(props: {
  readonly list: ReactNode;
  readonly detail: ReactNode;
  /** On a narrow screen, which of the two is shown; both, one under the other, unless told. */
  readonly narrow?: 'list' | 'detail';
}) {
  const hides = (part: 'list' | 'detail') =>
    props.narrow !== undefined && props.narrow !== part ? 'max-[899px]:hidden' : '';
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)] overflow-clip rounded-[16px] border border-line min-[900px]:grid-cols-[minmax(380px,1fr)_minmax(0,1.3fr)] min-[900px]:grid-rows-[minmax(0,1fr)]">
      <div
        className={`flex min-h-0 min-w-0 flex-col bg-sheet min-[900px]:border-r min-[900px]:border-line ${hides('list')}`}
      >
        {props.list}
      </div>
      <div className={`flex min-h-0 min-w-0 flex-col ${hides('detail')}`}>{props.detail}</div>
    </div>
  );
}
