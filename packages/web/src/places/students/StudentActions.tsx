/** What can be done for one student: write, pin, pause, an extension, set aside. */
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { DropdownMenu } from 'radix-ui';
import { Bookmark } from 'lucide-react';
import { toast } from 'sonner';
import { dayWords } from '@zest-bell/core/time';
import { fullName, type Item, type Person } from '@zest-bell/core/course';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient, refreshAll } from '../../lib/queries.ts';
import { ExtensionDialog } from '../../parts/editing/ExtensionDialog.tsx';
import { useEdit } from '../../parts/editing/useEdit.ts';
import { useRemarks } from '../../parts/table/useLookout.ts';
import { menuItem } from '../../ui/menu.ts';
import { PauseDialog } from '../../parts/editing/PauseDialog.tsx';
import { AsideDialog } from '../../parts/editing/AsideDialog.tsx';
import { Button } from '../../ui/Button.tsx';

export function StudentActions({ here, person }: { readonly here: CourseHere; readonly person: Person }) {
  const navigate = useNavigate();
  const remarks = useRemarks(here);
  const edit = useEdit(here);
  const [aside, setAside] = useState(false);
  const [pausing, setPausing] = useState(false);
  const [extend, setExtend] = useState<Item | null>(null);
  const pinned = remarks.pins.includes(person.id);
  const asideUntil = remarks.aside[person.id];
  const pin = () =>
    attempt(async () => {
      await ask(contract.desk.pins, { course: here.id }, { body: { students: [person.id], pinned: !pinned } });
      await queryClient.invalidateQueries({ queryKey: ['remarks', here.id] });
    });
  const back = () =>
    attempt(async () => {
      await ask(contract.desk.takeBackAside, { course: here.id, student: person.id });
      await refreshAll();
      toast(`${fullName(person)} is no longer set aside.`);
    });
  const coming = here.course.items.filter((i) => i.dueAt !== null && i.dueAt > here.now - 14 * 86_400_000);
  return (
    <div className="flex flex-wrap items-center gap-2" role="group" aria-label="For this student">
      <Button
        needs="nudges.decide"
        look="main"
        onClick={() => navigate(`/c/${here.id}/write?student=${encodeURIComponent(person.id)}`)}
      >
        Write a message
      </Button>
      <Button aria-pressed={pinned} onClick={() => pin()}>
        <Bookmark size={15} aria-hidden className={`mr-1.5 inline ${pinned ? 'fill-(--brass) text-brass' : ''}`} />
        {pinned ? 'Pinned' : 'Pin'}
      </Button>
      <Button
        needs="data.write"
        busy={edit.busy}
        onClick={() =>
          person.paused ? void edit.save({ people: [{ id: person.id, set: { paused: false } }] }) : setPausing(true)
        }
      >
        {person.paused ? 'Resume nudges' : 'Pause nudges …'}
      </Button>
      {coming.length > 0 && (
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <Button needs="data.write">Extend a due date</Button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="start" sideOffset={4} className="pop z-50 max-h-80 overflow-auto p-1.5">
              {coming.map((item) => (
                <DropdownMenu.Item key={item.id} className={menuItem} onSelect={() => setExtend(item)}>
                  {item.title}
                  <span className="ml-2 text-[13px] text-ink-3">due {dayWords(item.dueAt!, here.course.timeZone)}</span>
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
      {asideUntil === undefined ? (
        <Button onClick={() => setAside(true)}>Set aside</Button>
      ) : (
        <Button onClick={() => back()}>Set aside until {dayWords(asideUntil, here.course.timeZone)}: end it</Button>
      )}
      {pausing && <PauseDialog here={here} students={[person.id]} onClose={() => setPausing(false)} />}
      {aside && <AsideDialog here={here} students={[person.id]} onClose={() => setAside(false)} />}
      {extend && <ExtensionDialog here={here} items={[extend]} student={person.id} onClose={() => setExtend(null)} />}
    </div>
  );
}
