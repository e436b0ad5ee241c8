/** Views under a name, for everybody of the course; each has a link. */
import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import { X } from 'lucide-react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { LookoutView } from '@zest-bell/core/lookout';
import type { SavedView } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { TextField } from '../../ui/fields.tsx';

export const useViews = (here: CourseHere) =>
  useQuery({ queryKey: ['views', here.id], queryFn: () => ask(contract.desk.views, { course: here.id }) });

export function ViewsMenu(props: {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly onOpen: (saved: SavedView) => void;
}) {
  const { here } = props;
  const views = useViews(here);
  const [name, setName] = useState('');
  const [open, setOpen] = useState(false);
  const again = () => queryClient.invalidateQueries({ queryKey: ['views', here.id] });
  const save = async (e: FormEvent) => {
    e.preventDefault();
    await attempt(async () => {
      const saved = await ask(contract.desk.saveView, { course: here.id }, { body: { name, view: props.view } });
      await again();
      setName('');
      toast(`Saved the view “${saved.name}”.`, {
        description: 'Everyone who teaches this course with you can open it.',
      });
    });
  };
  const remove = async (view: SavedView) => {
    await attempt(async () => {
      await ask(contract.desk.removeView, { course: here.id, view: view.id });
      await again();
      toast(`Removed the view “${view.name}”.`, {
        action: {
          label: 'Undo',
          onClick: () =>
            void attempt(async () =>
              ask(contract.desk.saveView, { course: here.id }, { body: { name: view.name, view: view.view } }).then(
                again,
              ),
            ),
        },
      });
    });
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button>Views</Button>
      </Popover.Trigger>
      <Pop label="Views" align="end" className="grid w-[340px] gap-3 p-4">
        {views.data?.length === 0 && (
          <p className="text-[14px] text-ink-2">
            A view keeps the columns, the conditions and the order. Save this one to come back to it.
          </p>
        )}
        <ul className="max-h-64 overflow-auto">
          {(views.data ?? []).map((view) => (
            <li key={view.id} className="flex items-center gap-2 border-b border-line py-1 last:border-b-0">
              <button
                type="button"
                disabled={view.view === null}
                className="min-w-0 flex-1 truncate text-left font-semibold hover:underline"
                onClick={() => {
                  props.onOpen(view);
                  setOpen(false);
                }}
              >
                {view.name}
                <span className="block truncate text-[13px] font-normal text-ink-3">
                  {view.view === null ? 'no longer fits this course' : `saved by ${view.by}`}
                </span>
              </button>
              <button
                type="button"
                aria-label={`Remove the view ${view.name}`}
                className="grid size-8 place-items-center rounded-lg hover:bg-fog"
                onClick={() => void remove(view)}
              >
                <X size={16} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
        <form className="flex items-end gap-2" onSubmit={(e) => void save(e)}>
          <TextField label="Save this view as" value={name} onChange={setName} />
          <Button look="main" type="submit" disabled={name.trim() === ''}>
            Save view
          </Button>
        </form>
      </Pop>
    </Popover.Root>
  );
}
