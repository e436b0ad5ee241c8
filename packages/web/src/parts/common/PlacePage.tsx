/** A page of one of the places: it has the place's name, and one line about what it is for. */
import { PLACES, type PlacePath } from '../../lib/places.ts';
import { Page, type PageProps } from '../../ui/Page.tsx';

export function PlacePage({ place: path, ...page }: Omit<PageProps, 'title'> & { readonly place: PlacePath }) {
  const place = PLACES.find((p) => p.path === path)!;
  return <Page title={place.name} lead={place.about} {...page} />;
}
