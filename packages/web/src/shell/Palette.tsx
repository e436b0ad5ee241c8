/** The list behind Ctrl K: places, students, rules, texts, items, and what can be done with them. */
import { lazy, Suspense, useState } from 'react';
import { useNavigate } from 'react-router';
import { Command } from 'cmdk';
import { fullName, isActiveStudent, nameIn } from '@zest-bell/core/course';
import type { RuleCard } from '@zest-bell/core/exchange';
import { attempt } from '../lib/attempt.ts';
import { setStatusWithUndo } from '../lib/ruleActions.ts';
import { PLACES } from '../lib/places.ts';
import { useCourses, useRules, useWordings } from '../lib/queries.ts';
import { studentPath, type CourseHere } from '../lib/here.ts';

// What it takes to read a sentence is loaded once the list is open.
const SaidInPalette = lazy(() => import('./SaidInPalette.tsx'));

const ACTIONS = [
  { words: 'Create a rule', path: 'rules?new' },
  { words: 'Bring data in: a roster, grades, activity, a calendar', path: 'course/data' },
  { words: 'Add or change people', path: 'course/people' },
  { words: 'Add or change items and due dates', path: 'course/items' },
  { words: 'Change the course’s days and breaks', path: 'course/calendar' },
  { words: 'Who has opened, practiced, or turned in each item', path: 'students/class#done' },
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
  readonly here: CourseHere;
  readonly onShortcuts: () => void;
}) {
  const navigate = useNavigate();
  const courses = useCourses();
  const rules = useRules(props.here.id);
  const wordings = useWordings(props.here.id);
  const [typed, setTyped] = useState('');
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
        value={typed}
        onValueChange={setTyped}
        placeholder="Find anything, or: away 5 days, write Kofi, extend Lab 3"
        className="w-full border-b border-line bg-transparent px-5 py-4 text-lg outline-none"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2">
        <Command.Empty className="p-4 text-ink-2">No matches.</Command.Empty>
        <Suspense fallback={null}>
          <SaidInPalette
            here={props.here}
            typed={typed}
            onType={setTyped}
            onClose={props.onClose}
            groupClass={heading}
            entryClass={item}
          />
        </Suspense>
        <Verbs here={props.here} typed={typed} rules={rules.data ?? []} item={item} heading={heading} go={go} />
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

/** What is done with somebody or something that is named after it: listed once its first word is typed. */
function Verbs(props: {
  readonly here: CourseHere;
  readonly typed: string;
  readonly rules: readonly RuleCard[];
  readonly item: string;
  readonly heading: string;
  readonly go: (path: string) => void;
}) {
  const { here, rules, go } = props;
  const course = `/c/${here.id}`;
  const [verb] = props.typed.trim().toLowerCase().split(/\s+/);
  const students = here.may('nudges.decide') ? here.course.people.filter(isActiveStudent) : [];
  const lines = ((): readonly { readonly words: string; readonly key: string; readonly act: () => void }[] => {
    switch (verb) {
      case 'write':
        return students.map((p) => ({
          words: `Write to ${fullName(p)}`,
          key: p.id,
          act: () => go(`${course}/write?student=${encodeURIComponent(p.id)}`),
        }));
      case 'turn':
        return rules
          .filter(({ archivedAt }) => archivedAt === null && here.may('rules.run'))
          .map((card) => {
            const isOn = card.rule.status === 'on';
            return {
              words: `Turn ${isOn ? 'off' : 'on'} ${card.rule.name}`,
              key: card.rule.id,
              act: () => {
                go(`${course}/rules/${card.rule.id}${isOn ? '' : '?open=turnOn'}`);
                if (isOn) void attempt(() => setStatusWithUndo(here, [card], 'paused'));
              },
            };
          });
      case 'extend':
        return here.course.items
          .filter((i) => i.dueAt !== null && here.may('data.write'))
          .map((i) => ({
            words: `Extend ${i.title}`,
            key: i.id,
            act: () => go(`${course}/course/items?extend=${encodeURIComponent(i.id)}`),
          }));
      default:
        return [];
    }
  })();
  if (lines.length === 0) return null;
  return (
    <Command.Group heading="Do" className={props.heading}>
      {lines.map(({ words, key, act }) => (
        <Command.Item key={key} value={`${words} ${key}`} className={props.item} onSelect={act}>
          {words}
        </Command.Item>
      ))}
    </Command.Group>
  );
}
