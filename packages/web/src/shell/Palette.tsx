import { useNavigate } from 'react-router';
import { Command } from 'cmdk';
import { fullName, isActiveStudent, nameIn } from '@zest-bell/core/course';
import { PLACES } from '../lib/places.ts';
import { useCourses, useRules, useWordings } from '../lib/queries.ts';
import { studentPath, type Here } from '../lib/here.ts';

const ACTIONS = [
  { words: 'Create a rule', path: 'rules?new' },
  { words: 'Bring data in: a roster, grades, activity, a calendar', path: 'course/data' },
  { words: 'Add or change people', path: 'course/people' },
  { words: 'Add or change items and due dates', path: 'course/items' },
  { words: 'Change the course’s days and breaks', path: 'course/calendar' },
  { words: 'Undo a change', path: 'course/changes' },
  { words: 'Carry over rules from another course', path: 'carry' },
  { words: 'Mail merge from a sheet', path: 'merge' },
  { words: 'Decide on nudges that are waiting for you', path: 'tray' },
  { words: 'See messages that could not be delivered', path: 'log?view=failed' },
  { words: 'Change quiet hours, the message budget or the sender; stop all mail', path: 'course' },
] as const;

/** Go to anything, or do something, by typing a part of its name. */
export function Palette(props: {
  readonly open: boolean;
  readonly onClose: () => void;
  readonly here: Here;
  readonly onShortcuts: () => void;
}) {
  const navigate = useNavigate();
  const courses = useCourses();
  const rules = useRules(props.here.id);
  const wordings = useWordings(props.here.id);
  const course = `/c/${props.here.id}`;
  const go = (path: string) => {
    props.onClose();
    void navigate(path);
  };
  const item = 'cursor-pointer rounded-lg px-3 py-2 data-[selected=true]:bg-fog';
  const heading =
    '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-3 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-[13px] [&_[cmdk-group-heading]]:text-ink-3';
  return (
    <Command.Dialog
      open={props.open}
      onOpenChange={(open) => !open && props.onClose()}
      label="Go to anything"
      overlayClassName="fixed inset-0 z-40 bg-[#0a100d]/55"
      contentClassName="pop fixed top-[12vh] left-1/2 z-50 w-[calc(100vw-32px)] max-w-[560px] -translate-x-1/2 overflow-hidden"
    >
      <Command.Input
        placeholder="Find a student, a rule, a wording, an item, or an action"
        className="w-full border-b border-line bg-transparent px-5 py-4 text-lg outline-none"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2">
        <Command.Empty className="p-4 text-ink-2">No matches.</Command.Empty>
        <Command.Group heading="Places" className={heading}>
          {PLACES.map((p, i) => (
            <Command.Item key={p.path} className={item} onSelect={() => go(`/c/${props.here.id}/${p.path}`)}>
              {p.name} <kbd className="float-right font-num text-[12.5px] text-ink-3">{i + 1}</kbd>
            </Command.Item>
          ))}
          {props.here.demo && (
            <Command.Item className={item} onSelect={() => go('/mailroom')}>
              Mailroom
            </Command.Item>
          )}
        </Command.Group>
        <Command.Group heading="Rules" className={heading}>
          {(rules.data ?? []).map(({ rule }) => (
            <Command.Item key={rule.id} className={item} onSelect={() => go(`/c/${props.here.id}/rules/${rule.id}`)}>
              {rule.name}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Students" className={heading}>
          {props.here.course.people.filter(isActiveStudent).map((p) => (
            <Command.Item
              key={p.id}
              value={`${fullName(p)} ${p.id}`}
              className={item}
              onSelect={() => go(studentPath(props.here, p.id))}
            >
              {nameIn(props.here.course, p.id)}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Wordings" className={heading}>
          {(wordings.data ?? []).map((w) => (
            <Command.Item
              key={w.id}
              value={`${w.name} wording ${w.id}`}
              className={item}
              onSelect={() => go(`${course}/wording?wording=${encodeURIComponent(w.id)}`)}
            >
              {w.name}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Items: rules that look at them" className={heading}>
          {props.here.course.items.map((i) => (
            <Command.Item
              key={i.id}
              value={`${i.title} item ${i.id}`}
              className={item}
              onSelect={() => go(`${course}/rules?item=${encodeURIComponent(i.id)}`)}
            >
              {i.title}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Actions" className={heading}>
          {ACTIONS.map((a) => (
            <Command.Item key={a.path} className={item} onSelect={() => go(`${course}/${a.path}`)}>
              {a.words}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Courses" className={heading}>
          {(courses.data ?? []).map((c) => (
            <Command.Item key={c.id} className={item} onSelect={() => go(`/c/${c.id}/rules`)}>
              {c.code} {c.title}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Help" className={heading}>
          <Command.Item
            className={item}
            onSelect={() => {
              props.onClose();
              props.onShortcuts();
            }}
          >
            Keyboard shortcuts
          </Command.Item>
        </Command.Group>
      </Command.List>
    </Command.Dialog>
  );
}
