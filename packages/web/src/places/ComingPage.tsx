import { Link } from 'react-router';
import { useHere } from '../app/here.ts';
import type { Place } from '../app/places.ts';

/** A place that is not built yet says what will be there, and leads to what is. */
export function ComingPage({ place }: { readonly place: Place }) {
  const here = useHere();
  return (
    <div className="mx-auto w-full max-w-2xl px-6 py-16">
      <h1 className="text-3xl font-bold">{place.name}</h1>
      <p className="mt-4 text-lg">{place.about}</p>
      <p className="mt-2 text-ink-2">This place is not built yet.</p>
      {place.leads && (
        <p className="mt-6">
          <Link className="marked text-lg" to={`/c/${here.id}/${place.leads.path}`}>
            {place.leads.words}
          </Link>
        </p>
      )}
    </div>
  );
}
