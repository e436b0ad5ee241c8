import type { ReactNode } from 'react';
import { PLACES, type PlacePath } from '../../lib/places.ts';

/** The name of a place, what it is for in a line, and its main buttons. */
export function PlaceHead(props: {
  readonly place: PlacePath;
  readonly more?: ReactNode;
  readonly children?: ReactNode;
}) {
  const place = PLACES.find((p) => p.path === props.place)!;
  return (
    <div className="flex flex-wrap items-end gap-x-5 gap-y-3">
      <div className="min-w-0 flex-1 basis-80">
        <h1 className="text-[28px] leading-tight font-bold">{place.name}</h1>
        <p className="text-ink-2">
          {place.about}
          {props.more && <span className="text-ink-3"> {props.more}</span>}
        </p>
      </div>
      {props.children}
    </div>
  );
}
