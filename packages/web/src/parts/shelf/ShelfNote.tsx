/** That a newer version of something taken from the shelf is there. What the course has stays as it is until somebody changes it. */
import { Link, useNavigate } from 'react-router';
import { contract } from '@zest-bell/core/contract';
import type { ShelfKind } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { newerOnShelf, useShelfStanding } from '../../lib/useShelf.ts';
import { Button } from '../../ui/Button.tsx';
import { takenPath } from './takenPath.ts';

export function ShelfNote({
  here,
  kind,
  of,
}: {
  readonly here: CourseHere;
  readonly kind: ShelfKind;
  readonly of: string;
}) {
  const shelf = useShelfStanding(here).data;
  const navigate = useNavigate();
  const item = newerOnShelf(shelf, kind, of);
  if (!shelf || !item) return null;
  const take = () =>
    attempt(async () => {
      const taken = await ask(contract.shelf.take, { course: here.id, item: item.id });
      await ask(contract.shelf.seen, { course: here.id, item: item.id }, { body: { kind, key: of } });
      await refreshAll();
      await navigate(takenPath(here.id, taken));
    });
  const leave = () =>
    attempt(async () => {
      await ask(contract.shelf.seen, { course: here.id, item: item.id }, { body: { kind, key: of } });
      await refreshAll();
    });
  return (
    <div role="note" className="mt-2 rounded-xl bg-iris-soft px-4 py-2.5 text-[14.5px]">
      <p>
        <strong>A newer version is on the shelf of {shelf.college}.</strong> “{item.note}” Yours stays as it is.
      </p>
      <p className="mt-1.5 flex flex-wrap items-center gap-3">
        <Button needs="drafts.write" onClick={() => take()}>
          Take it as a second copy
        </Button>
        <Button needs="drafts.write" onClick={() => leave()}>
          Keep mine
        </Button>
        <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={`/c/${here.id}/shelf`}>
          See the shelf
        </Link>
      </p>
    </div>
  );
}
